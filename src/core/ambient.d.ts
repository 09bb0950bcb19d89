// The Encoding standard is present wherever the core runs (window, worker, worklet host, Node), yet belongs to no ES library.
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(input?: Uint8Array): string;
}
declare class TextEncoder {
  encode(input: string): Uint8Array;
}
declare module 'fft.js' {
  export default class FFT {
    constructor(size: number);
    createComplexArray(): number[];
    transform(out: number[], input: ArrayLike<number>): void;
    realTransform(out: number[] | Float64Array, input: ArrayLike<number>): void;
    inverseTransform(out: number[] | Float64Array, input: ArrayLike<number>): void;
    completeSpectrum(spectrum: number[] | Float64Array): void;
  }
}
