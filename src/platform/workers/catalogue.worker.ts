import { Catalogue } from '../catalogue/catalogue';
import { answer } from './answer';

class Served extends Catalogue {
  /** Answers another worker, too. */
  serve(port: MessagePort): void {
    answer(this, port);
  }
}

answer(new Served());
