import { expose } from 'comlink';
import { Taker } from '../out/taker';

expose(new Taker());
