import { expose } from 'comlink';
import { CopyFinder } from '../copies';

expose(new CopyFinder());
