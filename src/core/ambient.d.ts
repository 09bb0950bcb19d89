// The Encoding standard is present wherever the core runs (window, worker, worklet host, Node), yet belongs to no ES library.
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(input?: Uint8Array): string;
}
declare class TextEncoder {
  encode(input: string): Uint8Array;
}
