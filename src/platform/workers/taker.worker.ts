import { expose } from 'comlink';
import { Taker } from '../taker';

expose(new Taker());
