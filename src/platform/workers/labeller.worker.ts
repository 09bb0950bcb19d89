import { proxy, wrap } from 'comlink';
import type { Catalogue } from '../catalogue/catalogue';
import { Labeller } from '../labelling/labeller';
import { answer } from './answer';

answer({
  async start(port: MessagePort, memory: SharedArrayBuffer) {
    return proxy(await Labeller.start(wrap<Catalogue>(port) as never, new Int32Array(memory)));
  },
});
