/** How far the work on one root has come. */
export interface RootWork {
  rootId: number;
  phase: 'Waiting' | 'In another tab' | 'Looking' | 'Reading labels' | 'Measuring' | 'Comparing';
  done: number;
  total: number;
  /** More may be found: the total is what was found so far. */
  counting?: boolean;
  /** Files done a second, over the last few of them; 0 while not known. */
  rate: number;
  /** What is being worked on right now. */
  current: string;
}

/** A root that cannot be read now, and why. */
export interface Unavailable {
  rootId: number;
  reason: string;
  /** Whether the user can allow it again with a click. */
  askAgain: boolean;
  /** It is there, and empty where it was full: so many files are out of reach, unless somebody says that they are gone. */
  emptied?: number;
}

/** The state of all work, for whoever shows it. */
export interface WorkReport {
  works: RootWork[];
  /** Roots that cannot be read now. */
  unavailable: Unavailable[];
  /** Roots of which everything is read and measured. */
  current: number[];
}
