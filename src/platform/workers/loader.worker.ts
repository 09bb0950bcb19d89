import { expose } from 'comlink';
import { AudioLoader } from '../loader';

expose(new AudioLoader());
