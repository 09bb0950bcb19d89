import { ListReader } from '../files/lists';
import { answer } from './answer';

answer(new ListReader());
