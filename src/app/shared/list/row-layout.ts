/** A list of rows that are all as high as each other, but for one that may be opened, and some that have a heading. Heights in pixels. */
export interface RowLayout {
  count: number;
  height: number;
  opened?: { index: number; extra: number };
  /** Rows above which a heading stands, rising, and how high it is. */
  headings?: { rows: readonly number[]; extra: number };
}

/** Browsers end elements somewhere beyond 33 million pixels; from here on, one pixel scrolled stands for more than one of rows. */
export const TALLEST = 30_000_000;

/** Where a row begins, with its heading; for the row behind the last, where the list ends. */
export function rowTop({ height, opened, headings }: RowLayout, index: number): number {
  const headed = headings ? headings.rows.filter((row) => row < index).length * headings.extra : 0;
  return index * height + (opened && index > opened.index ? opened.extra : 0) + headed;
}

/** The row that lies at a place; the inverse of {@link rowTop}, and the last row beyond the end. */
export function rowAt(layout: RowLayout, place: number): number {
  let [low, high] = [0, layout.count - 1];
  while (low < high) {
    const middle = (low + high + 1) >>> 1;
    if (rowTop(layout, middle) <= place) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** How high all rows are made, and how many pixels of rows one scrolled pixel passes. @param view pixels in sight */
export function stretchOf(layout: RowLayout, view: number): { total: number; ratio: number } {
  const real = rowTop(layout, layout.count);
  if (real <= TALLEST) return { total: real, ratio: 1 };
  return { total: TALLEST, ratio: (real - view) / (TALLEST - view) };
}
