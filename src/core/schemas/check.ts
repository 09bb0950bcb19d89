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
