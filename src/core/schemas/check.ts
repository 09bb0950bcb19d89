import { findNodeAtLocation, parseTree, printParseErrorCode, type ParseError } from 'jsonc-parser';
import type { Validator } from '../generated/validators';

/**
 * Checks data from outside against a compiled schema.
 * @param what the data in words, for the message
 * @returns the same data, typed
 * @throws Error that says where it is wrong
 */
export function checked<T>(data: unknown, validator: Validator, what: string): T {
  if (validator(data)) return data as T;
  const fault = validator.errors?.[0];
  throw new Error(`${what} is not as expected: ${fault?.instancePath || 'the whole'} ${fault?.message ?? 'is wrong'}`);
}

/** The line, from 1, of a place in a text. */
const lineOf = (text: string, offset: number) => text.slice(0, offset).split('\n').length;

/**
 * Reads and checks the text of a JSON file.
 * @param what the file in words, for the message
 * @throws Error that says in which line it is wrong
 */
export function checkedFile<T>(text: string, validator: Validator, what: string): T {
  try {
    return checkedText(text, validator, what);
  } catch (error) {
    // Brackets within brackets, more than anybody can follow.
    if (error instanceof RangeError) throw new Error(`${what} is nested too deeply to be read.`, { cause: error });
    throw error;
  }
}

/** The data of a good file; undefined of any other. */
function goodData<T>(text: string, validator: Validator): T | undefined {
  try {
    const data: unknown = JSON.parse(text);
    return validator(data) ? (data as T) : undefined;
  } catch (error) {
    if (error instanceof SyntaxError) return undefined;
    throw error;
  }
}

function checkedText<T>(text: string, validator: Validator, what: string): T {
  const good = goodData<T>(text, validator);
  if (good !== undefined) return good;
  // Only where something is wrong is it read again to find the place: a tree of all that a large file holds is many times as large.
  const errors: ParseError[] = [];
  const tree = parseTree(text, errors, { disallowComments: true });
  if (errors.length > 0 || !tree) {
    const { error, offset } = errors[0] ?? { error: 4, offset: 0 };
    const reason = printParseErrorCode(error)
      .replace(/([a-z])([A-Z])/g, '$1 $2')
      .toLowerCase();
    throw new Error(`${what} is no JSON: line ${lineOf(text, offset)}, ${reason}.`);
  }
  const data = JSON.parse(text) as T;
  if (validator(data)) return data;
  const fault = validator.errors?.[0];
  const at = (fault?.instancePath ?? '')
    .split('/')
    .slice(1)
    .map((part) => (/^\d+$/.test(part) ? Number(part) : part.replace(/~1/g, '/').replace(/~0/g, '~')));
  const node = findNodeAtLocation(tree, at) ?? tree;
  const place = at.length > 0 ? `${at.join(', ')}: ` : '';
  throw new Error(
    `${what} is not as expected: line ${lineOf(text, node.offset)}, ${place}${fault?.message ?? 'is wrong'}.`,
  );
}
