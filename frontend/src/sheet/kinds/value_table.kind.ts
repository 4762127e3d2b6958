import { interaction } from '../interaction.svelte';
import { linesOf } from '../making/hang.svelte';
import TableSentence from '../sentences/Table.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

/** A table as it is written: its heading, then a line for each row. */
export function written(id: string): string {
  const own = work.annotation(id);
  if (own?.kind !== 'value_table') return '';
  const rows = own.rows.map((r) => `${r.name}: ${r.value ?? ''}`);
  return [...(own.heading ? [own.heading] : []), ...rows].join('\n');
}

const kind: Kind = {
  kind: 'value_table',
  noun: ['table of values', 'tables of values'],
  sentence: TableSentence,
  counts: 'sign',
  rank: 1.1,
  spoken: 'table',
  says: () => 'table',
  offers: (id) => [
    { name: 'Write it anew', run: () => interaction.make(linesOf('table', id, written(id))) },
    { name: 'Remove', run: () => work.remove([id]) },
  ],
  drag: dragged,
  moved: nudged,
};

export default kind;
