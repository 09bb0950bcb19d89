import { startCatalogue } from '@platform/index';

// The library is opened while the page is still reading the rest of the application.
const catalogue = startCatalogue();
void import('./begin').then(({ begin }) => begin(catalogue));
