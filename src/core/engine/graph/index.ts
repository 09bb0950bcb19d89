/** Clips, lines and effects as one graph, which plays, jumps and is written. */
export { Graph, type Meters } from './graph';
export { needsOf, type MaterialSpan } from './needs';
export {
  clipSpan,
  differences,
  emptyPlan,
  MAIN,
  mayFlow,
  type Clip,
  type Flow,
  type GraphChange,
  type GraphPlan,
  type Insert,
  type MadeOf,
  type Line,
} from './plan';
