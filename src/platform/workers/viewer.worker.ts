import { expose } from 'comlink';
import { Viewer } from '../audio/viewer';

expose(new Viewer());
