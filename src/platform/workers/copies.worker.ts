import { CopyFinder } from '../intake/copies';
import { answer } from './answer';

answer(new CopyFinder());
