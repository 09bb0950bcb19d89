import { expose } from 'comlink';
import { Viewer } from '../viewer';

expose(new Viewer());
