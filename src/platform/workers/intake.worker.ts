import { expose } from 'comlink';
import { IntakeReader } from '../intake/intake';

expose(new IntakeReader());
