import { expose, proxy, wrap } from 'comlink';
import type { Catalogue } from '../catalogue/catalogue';
import { Conductor, type Reader, type WorkReport } from '../intake/conductor';

/** All cores but one: that one draws the screen and answers searches. */
const COUNT = Math.max(1, Math.min(8, (navigator.hardwareConcurrency || 2) - 1));

expose({
  start(port: MessagePort, report: (report: WorkReport) => void) {
    const readers = Array.from({ length: COUNT }, (_, i) =>
      wrap(new Worker(new URL('./intake.worker.ts', import.meta.url), { type: 'module', name: `reader ${i + 1}` })),
    );
    const catalogue = wrap<Catalogue>(port);
    return proxy(new Conductor(catalogue as never, readers as unknown as Reader[], report));
  },
});
