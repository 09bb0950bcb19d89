import { IntakeReader } from '../intake/intake';
import { answer } from './answer';

answer(new IntakeReader());
