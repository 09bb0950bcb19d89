import { proxy } from 'comlink';
import { Deliverer } from '../out/deliverer';
import { Publisher } from '../out/publisher';
import { Store } from '../store/store';
import { answer } from './answer';

async function opened(): Promise<Store> {
  const store = new Store();
  await store.open();
  return store;
}

answer({
  start: async () => proxy(new Publisher(await opened())),
  deliverer: async () => proxy(new Deliverer(await opened())),
});
