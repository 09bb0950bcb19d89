import { Film } from '../audio/film';
import { answer } from './answer';

answer(new Film());
