import { farOff, reach } from '../helpers/anchors';

// Anchors of made-up sounds whose instants are known, of other shapes than the demo's; `npm run bench` looks at three times as many.

const EACH = 20;

test.each(Object.keys(reach) as (keyof typeof reach)[])('%s', async (kind) => {
  const far = await farOff(kind, EACH);
  const [, share] = reach[kind];
  expect({ far: far.slice(Math.floor(EACH * (1 - share) + 1e-9)) }).toEqual({ far: [] });
});
