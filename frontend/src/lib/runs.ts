import type { Element, Mark } from '../api/client';

/** Elements that follow each other, belong to one view and stand at one place: they are drawn, and moved, as one. */
export type Run = { key: string; group: string; x: number; y: number; parts: Part[] };
/** An element without its place: the same thing as long as its ink is the same, wherever it is moved. */
export type Part = { id: string; marks: Mark[] };

const parts = new WeakMap<Mark[], Part>();

function partOf(e: Element): Part {
  const marks = e.marks;
  if (!marks) return { id: e.id, marks: [] };
  let found = parts.get(marks);
  if (found?.id !== e.id) parts.set(marks, (found = { id: e.id, marks }));
  return found;
}

/** Elements as runs, in their order. */
export function runsOf(elements: Element[]): Run[] {
  const found: Run[] = [];
  const count = new Map<string, number>();
  let run: Run | undefined;
  for (const e of elements) {
    if (!run || run.group !== e.group || run.x !== e.x || run.y !== e.y) {
      const k = count.get(e.group) ?? 0;
      count.set(e.group, k + 1);
      found.push((run = { key: `${e.group} ${k}`, group: e.group, x: e.x, y: e.y, parts: [] }));
    }
    run.parts.push(partOf(e));
  }
  return found;
}
