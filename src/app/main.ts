import { startCatalogue } from '@platform/index';
import { stageAt } from './stages';

// The library is opened while the page is still reading the rest of the application.
const catalogue = startCatalogue();
// The stage is read along with what stands around it; if that fails, the router tells of it.
void stageAt(location.pathname)
  .view()
  .catch(() => undefined);
void import('./begin').then(({ begin }) => begin(catalogue));
