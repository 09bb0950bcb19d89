import { expose, transfer } from 'comlink';
import { Mixer } from '../out/mixer';

const mixer = new Mixer();

expose({
  async mix(...args: Parameters<Mixer['mix']>) {
    const answer = await mixer.mix(...args);
    return transfer(answer, [answer.wav.buffer]);
  },
});
