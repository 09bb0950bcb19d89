import { expose } from 'comlink';
import { Catalogue } from '../catalogue/catalogue';

class Served extends Catalogue {
  /** Answers another worker, too. */
  serve(port: MessagePort): void {
    expose(this, port);
  }
}

expose(new Served());
