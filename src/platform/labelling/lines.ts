/** Bytes that one line may have. */
const LONGEST = 64 << 20;
const BREAK = 10;

/**
 * Reads a stream line by line; what a line ends with is no part of its text, but of its bytes.
 * @param most bytes of the whole stream
 * @throws Error for a line or a stream beyond all measure, or text that is no UTF-8
 */
export async function linesOf(
  stream: ReadableStream<Uint8Array>,
  most: number,
  line: (text: string, bytes: Uint8Array) => void,
): Promise<void> {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  const reader = stream.getReader();
  // Parts of a line that is not ended yet: put together once, however many they are.
  let parts: Uint8Array[] = [];
  let held = 0;
  let all = 0;
  const end = () => {
    const whole = parts.length === 1 ? parts[0] : new Uint8Array(held);
    if (parts.length > 1) {
      let at = 0;
      for (const part of parts) {
        whole.set(part, at);
        at += part.length;
      }
    }
    parts = [];
    held = 0;
    let text: string;
    try {
      text = decoder.decode(whole.subarray(0, whole[whole.length - 1] === BREAK ? -1 : undefined));
    } catch {
      throw new Error('it is not written in UTF-8');
    }
    line(text, whole);
  };
  const hold = (part: Uint8Array) => {
    held += part.length;
    if (held > LONGEST) throw new Error(`one of its lines is longer than ${LONGEST >> 20} MB`);
    parts.push(part);
  };
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      all += value.length;
      if (all > most) throw new Error(`it unpacks to more than ${most / 1e9} GB`);
      let from = 0;
      for (let at = value.indexOf(BREAK); at >= 0; at = value.indexOf(BREAK, from)) {
        hold(value.subarray(from, at + 1));
        end();
        from = at + 1;
      }
      if (from < value.length) hold(value.subarray(from));
    }
    if (held > 0) end();
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}
