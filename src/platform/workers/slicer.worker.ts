import { Slicer } from '../audio/slicer';
import { answer } from './answer';

answer(new Slicer());
