import { Viewer } from '../audio/viewer';
import { answer } from './answer';

answer(new Viewer());
