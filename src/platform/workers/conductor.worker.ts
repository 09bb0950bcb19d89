import { proxy, wrap } from 'comlink';
import type { Catalogue } from '../catalogue/catalogue';
import { Conductor, type Reader } from '../intake/conductor';
import type { WorkReport } from '../intake/work';
import { answer } from './answer';

/** All cores but one, which draws the screen and answers searches; two where there are two, as one would wait for the disk half of its time. */
const COUNT = Math.max(2, Math.min(8, (navigator.hardwareConcurrency || 2) - 1));

answer({
  start(port: MessagePort, report: (report: WorkReport) => void) {
    const readers = Array.from({ length: COUNT }, (_, i) =>
      wrap(new Worker(new URL('./intake.worker.ts', import.meta.url), { type: 'module', name: `reader ${i + 1}` })),
    );
    const catalogue = wrap<Catalogue>(port);
    return proxy(new Conductor(catalogue as never, readers as unknown as Reader[], report));
  },
});
