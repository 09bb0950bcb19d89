import { proxy, wrap } from 'comlink';
import type { Catalogue } from '../catalogue/catalogue';
import { FileWriter } from '../out/file-writer';
import { Store } from '../store/store';
import { answer } from './answer';

answer({
  async start(port: MessagePort) {
    const store = new Store();
    await store.open();
    return proxy(new FileWriter(store, wrap<Catalogue>(port) as never));
  },
});
