import { proxy } from 'comlink';
import { Publisher } from '../out/publisher';
import { Store } from '../store/store';
import { answer } from './answer';

answer({
  async start() {
    const store = new Store();
    await store.open();
    return proxy(new Publisher(store));
  },
});
