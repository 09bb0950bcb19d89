import { expose } from 'comlink';
import { looked } from './disk';

// Looks at the disk apart from all else: see `patient`.
expose(looked);
