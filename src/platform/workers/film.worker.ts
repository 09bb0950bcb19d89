import { expose } from 'comlink';
import { Film } from '../film';

expose(new Film());
