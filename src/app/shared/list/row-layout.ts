/** A list of rows that are all as high as each other, but for one that may be opened. Heights in pixels. */
export interface RowLayout {
  count: number;
  height: number;
  opened?: { index: number; extra: number };
}

/** Browsers end elements somewhere beyond 33 million pixels; from here on, one pixel scrolled stands for more than one of rows. */
export const TALLEST = 30_000_000;

/** Where a row begins; for the row behind the last, where the list ends. */
export function rowTop({ height, opened }: RowLayout, index: number): number {
  return index * height + (opened && index > opened.index ? opened.extra : 0);
}

/** The row that lies at a place; the inverse of {@link rowTop}, and the last row beyond the end. */
export function rowAt({ count, height, opened }: RowLayout, place: number): number {
  const plain = Math.floor(place / height);
  const row =
    opened && plain > opened.index ? Math.max(opened.index, Math.floor((place - opened.extra) / height)) : plain;
  return Math.max(0, Math.min(count - 1, row));
}

/** How high all rows are made, and how many pixels of rows one scrolled pixel passes. @param view pixels in sight */
export function stretchOf(layout: RowLayout, view: number): { total: number; ratio: number } {
  const real = rowTop(layout, layout.count);
  if (real <= TALLEST) return { total: real, ratio: 1 };
  return { total: TALLEST, ratio: (real - view) / (TALLEST - view) };
}
