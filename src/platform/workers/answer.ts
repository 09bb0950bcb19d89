import { expose, transferHandlers, type Endpoint } from 'comlink';
import { inOurWords } from '../store/room';

const thrown = transferHandlers.get('throw')!;
transferHandlers.set('throw', {
  ...thrown,
  serialize: (given) => {
    const { value, ...marker } = given as { value: unknown };
    return thrown.serialize({ ...marker, value: value instanceof Error ? inOurWords(value) : value });
  },
});

/** Answers calls from another thread. A full disk is told in our words, as each browser has its own for it. */
export const answer = (what: object, port?: Endpoint): void => expose(what, port);
