import { expect } from '@jest/globals';

// Samples and bytes are compared one by one in a plain loop: going through them as lists of anything takes a hundred times as long.
expect.addEqualityTesters([
  (a: unknown, b: unknown): boolean | undefined => {
    if (!ArrayBuffer.isView(a) || !ArrayBuffer.isView(b) || a.constructor !== b.constructor) return undefined;
    if (a instanceof DataView) return undefined;
    const [x, y] = [a, b] as unknown as [ArrayLike<number>, ArrayLike<number>];
    if (x.length !== y.length) return false;
    for (let i = 0; i < x.length; i++) if (!Object.is(x[i], y[i])) return false;
    return true;
  },
]);
