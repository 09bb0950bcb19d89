import { expose } from 'comlink';
import { Catalogue } from '../catalogue';

expose(new Catalogue());
