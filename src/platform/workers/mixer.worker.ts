import { Mixer } from '../out/mixer';
import { answer } from './answer';

answer(new Mixer());
