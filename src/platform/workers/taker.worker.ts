import { Taker } from '../out/taker';
import { answer } from './answer';

answer(new Taker());
