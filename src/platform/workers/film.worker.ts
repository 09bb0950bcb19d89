import { expose } from 'comlink';
import { Film } from '../audio/film';

expose(new Film());
