import { drafted } from '@app/stores/drafted';

// What a hand turns, and the steps that are made of it.

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

function hand() {
  const steps: string[] = [];
  const draft: { value: number | undefined } = { value: undefined };
  const set = drafted(draft, (label, value) => {
    steps.push(`${label} ${value}`);
    return Promise.resolve();
  });
  return { steps, draft, set };
}

test('a hand that goes on makes one step, kept once it rests', async () => {
  const { steps, draft, set } = hand();
  for (const value of [1, 2, 3]) {
    set('Turn', value);
    await jest.advanceTimersByTimeAsync(200);
  }
  expect([steps, draft.value]).toEqual([[], 3]);
  await jest.advanceTimersByTimeAsync(200);
  expect([steps, draft.value]).toEqual([['Turn 3'], undefined]);
});

test('a step that follows at once comes behind what was turned, which is kept once and no more', async () => {
  const { steps, draft, set } = hand();
  set('Turn', 5);
  await set.rest();
  steps.push('another step');
  expect(draft.value).toBeUndefined();
  await jest.advanceTimersByTimeAsync(1000);
  expect(steps).toEqual(['Turn 5', 'another step']);
  // Nothing lies there any more.
  await set.rest();
  set('Turn on', 6);
  await jest.advanceTimersByTimeAsync(1000);
  expect(steps).toEqual(['Turn 5', 'another step', 'Turn on 6']);
});
