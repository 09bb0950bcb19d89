import { transfer } from 'comlink';
import { Mixer } from '../out/mixer';
import { answer } from './answer';

const mixer = new Mixer();

answer({
  async mix(...args: Parameters<Mixer['mix']>) {
    const mixed = await mixer.mix(...args);
    return transfer(mixed, [mixed.wav.buffer]);
  },
});
