import { Maker } from '../audio/maker';
import { answer } from './answer';

answer(new Maker());
