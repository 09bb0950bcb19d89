import { Slicer } from '../labelling/slicer';
import { answer } from './answer';

answer(new Slicer());
