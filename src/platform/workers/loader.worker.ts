import { expose } from 'comlink';
import { AudioLoader } from '../audio/loader';

expose(new AudioLoader());
