/** Does one thing after another. Once one failed, those behind it are left undone. */
export class Line {
  private last: Promise<void> = Promise.resolve();
  /** Whether one has failed. */
  failed = false;

  add(task: () => Promise<void>): void {
    this.last = this.last.then(task);
    this.last.catch(() => (this.failed = true));
  }

  /** Resolves when all is done. @throws what the one that failed threw */
  done(): Promise<void> {
    return this.last;
  }
}
