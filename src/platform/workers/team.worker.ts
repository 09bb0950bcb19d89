import { proxy, wrap } from 'comlink';
import type { Catalogue } from '../catalogue/catalogue';
import { Store } from '../store/store';
import { Sharer } from '../team/sharer';
import { answer } from './answer';

answer({
  async start(port: MessagePort) {
    const store = new Store();
    await store.open();
    return proxy(new Sharer(store, wrap<Catalogue>(port) as never));
  },
});
