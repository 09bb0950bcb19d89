import { Catalogue } from '../catalogue/catalogue';
import { answer } from './answer';

class Served extends Catalogue {
  /** Answers another worker, too. */
  serve(port: MessagePort): void {
    answer(this, port);
  }
}

const served = new Served();
answer(served);
// The page asks for it once it has read itself; the disk is looked at meanwhile.
served.begin();
