import { AudioLoader } from '../audio/loader';
import { answer } from './answer';

answer(new AudioLoader());
