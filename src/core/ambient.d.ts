// The Encoding standard is present wherever the core runs (window, worker, worklet host, Node), yet belongs to no ES library.
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(input?: Uint8Array): string;
}
declare class TextEncoder {
  encode(input: string): Uint8Array;
}
// Of the HTML standard, and as present everywhere.
declare function atob(text: string): string;
declare function btoa(text: string): string;
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
declare module 'libflacjs/dist/libflac.js' {
  const Flac: {
    isReady(): boolean;
    on(event: 'ready', done: () => void): void;
    create_libflac_encoder(
      rate: number,
      channels: number,
      bits: number,
      level: number,
      frames: number,
      verify: boolean,
      block: number,
    ): number;
    init_encoder_stream(
      encoder: number,
      write: (bytes: Uint8Array, length: number, samples: number) => void,
      told: (facts: { min_framesize: number; max_framesize: number; total_samples: number; md5sum: string }) => void,
    ): number;
    FLAC__stream_encoder_process(encoder: number, planes: Int32Array[], frames: number): boolean;
    FLAC__stream_encoder_finish(encoder: number): boolean;
    FLAC__stream_encoder_delete(encoder: number): void;
  };
  export default Flac;
}
