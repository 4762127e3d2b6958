import ThreadSentence from '../sentences/Thread.svelte';
import { work } from '../work.svelte';
import type { Kind } from './kind';

/** The view that a thread is shown in, and its face. */
export function threadOf(id: string): { view: string; ref: string } | undefined {
  const element = work.elements.get(id);
  const ref = work.hits?.of(id)?.ref;
  return element && ref ? { view: element.group, ref } : undefined;
}

/** Change what is said of a thread. */
export function changeThread(
  id: string,
  changes: { size?: string; tolerance?: string; hand?: 'right' | 'left'; length?: number; runout?: number },
) {
  const own = threadOf(id);
  if (own) return work.act({ act: 'change_thread', ...own, alike: true, ...changes });
}

const kind: Kind = {
  kind: 'thread',
  noun: ['thread', 'threads'],
  sentence: ThreadSentence,
  rank: 1,
  windowed: false,
  offers: (id) => [{ name: 'No thread', run: () => changeThread(id, { size: 'none' }) }],
};

export default kind;
