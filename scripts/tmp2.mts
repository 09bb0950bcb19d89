import { slicing } from './bench-slices';
await slicing((a, b, c) => console.log(a, b, c));
