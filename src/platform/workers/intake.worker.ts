import { expose } from 'comlink';
import { IntakeReader } from '../intake';

expose(new IntakeReader());
