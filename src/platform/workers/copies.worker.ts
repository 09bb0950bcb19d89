import { expose } from 'comlink';
import { CopyFinder } from '../intake/copies';

expose(new CopyFinder());
