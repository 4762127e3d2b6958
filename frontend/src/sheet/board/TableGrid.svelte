<script lang="ts">
  import { tick, untrack } from 'svelte';
  import { cellsOf, csvOf, give } from '../../lib/csv';
  import { interaction } from '../interaction.svelte';
  import { work } from '../work.svelte';
  import { viewport } from './viewport.svelte';

  /** The cells of a table, edited where it stands; the items of the parts list in theirs. All of it is one step. */
  let element = $derived(work.elements.get(work.table));
  const own = untrack(() => {
    const a = work.annotation(work.table);
    return a?.kind === 'table' ? a : undefined;
  });
  const items = untrack(() => (own?.follows === 'parts' ? (work.state?.document.items ?? []) : []));
  const OF_ITEMS = ['number', 'quantity', 'name', 'reference', 'material', 'remarks'] as const;
  let titles = $state(
    own?.follows === 'parts'
      ? ['Item', 'Qty', 'Name', 'Number', 'Material', 'Remarks']
      : (own?.columns ?? []).map((c) => c.title ?? ''),
  );
  let cells = $state(
    own?.follows === 'parts'
      ? items.map((i) => OF_ITEMS.map((f) => `${i[f] ?? ''}`))
      : (own?.rows ?? []).map((r) => (own?.columns ?? []).map((_, k) => r[k] ?? '')),
  );
  let at = $state<[number, number]>([0, 0]);
  let board = $state<HTMLElement>();
  let sorted = $state(1);
  let file = $state<HTMLInputElement>();
  let wide = $state(420);
  let high = $state(260);
  /** How many signs wide each column is: as what is in it. */
  let room = $derived(
    titles.map((t, k) => Math.min(30, Math.max(4, t.length, ...cells.map((r) => r[k]?.length ?? 0)) + 3)),
  );
  const free = own?.follows !== 'parts';
  const before = untrack(() => JSON.stringify([titles, cells]));
  let place = $derived.by(() => {
    const points = (element?.marks ?? []).flatMap((m) => (m.m === 't' ? m.box : []));
    const xs = points.filter((_, k) => k % 2 === 0);
    const ys = points.filter((_, k) => k % 2);
    const least = (all: number[]) => (all.length ? Math.min(...all) : 0);
    return [(element?.x ?? 0) + least(xs), (element?.y ?? 0) + least(ys)] as [number, number];
  });
  let corner = $derived(viewport.window(...place));

  function go(row: number, column: number) {
    at = [Math.max(-1, Math.min(row, cells.length - 1)), Math.max(0, Math.min(column, titles.length - 1))];
    void tick().then(() => {
      const input = board?.querySelector<HTMLInputElement>(`[data-cell="${at[0]}-${at[1]}"]`);
      input?.focus();
      input?.select();
    });
  }
  $effect(() => untrack(() => go(0, 0)));

  function keys(e: KeyboardEvent) {
    e.stopPropagation();
    const input = e.target as HTMLInputElement;
    const [row, column] = at;
    const still = input.selectionStart !== null && input.selectionStart !== input.selectionEnd;
    if (e.key === 'Escape') return void (work.table = '');
    if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) return void keep();
    if (e.key === 'Enter') {
      if (row === cells.length - 1 && free) addRow();
      go(row + 1, column);
    } else if (e.key === 'ArrowDown') go(row + 1, column);
    else if (e.key === 'ArrowUp') go(row - 1, column);
    else if (e.key === 'ArrowLeft' && (still || input.selectionStart === 0)) go(row, column - 1);
    else if (e.key === 'ArrowRight' && (still || input.selectionStart === input.value.length))
      go(row, column + 1);
    else if (e.key === 'Tab') {
      const next = (row + 1) * titles.length + column + (e.shiftKey ? -1 : 1);
      if (next < 0) return;
      if (next >= (cells.length + 1) * titles.length && free) addRow();
      go(Math.floor(next / titles.length) - 1, next % titles.length);
    } else return;
    e.preventDefault();
  }

  function addRow() {
    cells = [...cells.slice(0, at[0] + 1), titles.map(() => ''), ...cells.slice(at[0] + 1)];
  }
  function addColumn() {
    const k = at[1] + 1;
    titles = [...titles.slice(0, k), '', ...titles.slice(k)];
    cells = cells.map((r) => [...r.slice(0, k), '', ...r.slice(k)]);
    go(at[0], k);
  }
  function dropRow() {
    if (cells.length > 1 && at[0] >= 0) cells = cells.filter((_, k) => k !== at[0]);
    go(at[0], at[1]);
  }
  function dropColumn() {
    if (titles.length > 1) {
      titles = titles.filter((_, k) => k !== at[1]);
      cells = cells.map((r) => r.filter((_, k) => k !== at[1]));
    }
    go(at[0], at[1]);
  }
  function sort() {
    const k = at[1];
    const figure = (t: string) => Number(t.replace(',', '.').replace(/^[^0-9.-]*/, ''));
    cells = [...cells].sort((a, b) => {
      const [x, y] = [figure(a[k]), figure(b[k])];
      const by = a[k] && b[k] && !isNaN(x) && !isNaN(y) && x !== y ? x - y : a[k].localeCompare(b[k]);
      return sorted * by;
    });
    sorted = -sorted;
  }

  /** Cells put in from where the hand is: rows and columns are added where there are too few. */
  function put(from: string[][], row: number, column: number) {
    const wide = Math.max(titles.length, column + Math.max(...from.map((r) => r.length)));
    if (wide > 24 || row + from.length > 500) {
      interaction.words = 'a table has at most 24 columns and 500 rows';
      return;
    }
    titles = [...titles, ...Array(wide - titles.length).fill('')];
    const grown = cells.map((r) => [...r, ...Array(wide - r.length).fill('')]);
    while (grown.length < row + from.length) grown.push(Array(wide).fill(''));
    from.forEach((r, i) => r.forEach((c, j) => (grown[row + i][column + j] = c.slice(0, 300))));
    cells = grown;
  }
  function pasted(e: ClipboardEvent) {
    const text = e.clipboardData?.getData('text/plain') ?? '';
    if (!free || !/[\t\n]/.test(text.trimEnd())) return;
    e.preventDefault();
    put(cellsOf(text), Math.max(at[0], 0), at[1]);
  }
  async function brought() {
    const chosen = file?.files?.[0];
    if (!chosen) return;
    const rows = cellsOf(await chosen.text());
    if (!rows.length) return;
    [titles, cells] = [rows[0].map((t) => t.slice(0, 60)), []];
    put(rows.slice(1).length ? rows.slice(1) : [['']], 0, 0);
  }

  async function keep() {
    const id = work.table;
    work.table = '';
    if (!own || JSON.stringify([titles, cells]) === before) return;
    if (free) {
      const columns = titles.map((title, k) => ({ ...(own.columns[k] ?? {}), title: title.slice(0, 60) }));
      const joined = (own.joined ?? []).filter(
        (j) => j.row < cells.length && j.column + j.across <= titles.length,
      );
      await work.setAnnotations([id], { columns, rows: cells, joined });
      return;
    }
    const whole = (t: string) => Math.max(0, Math.round(Number(t.replace(/[^0-9]/g, '')) || 0));
    const changed = items.flatMap((item, i) => {
      const [number, quantity, name, reference, material, remarks] = cells[i];
      const now = {
        name,
        reference,
        material,
        remarks,
        quantity: whole(quantity),
        number: whole(number) || item.number,
      };
      const same = (Object.keys(now) as (keyof typeof now)[]).every((k) => now[k] === item[k]);
      return same ? [] : [{ id: item.id, ...now }];
    });
    if (changed.length) await work.act({ act: 'change_items', items: changed });
  }
  const name = () => (own?.heading || 'table').replace(/[^\w -]+/g, '');
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<div
  class="grid"
  role="group"
  aria-label={`Cells of ${own?.heading || 'the table'}`}
  bind:this={board}
  bind:clientWidth={wide}
  bind:clientHeight={high}
  style={`left:${Math.max(8, Math.min(corner[0], viewport.width - wide - 10))}px;top:${Math.max(8, Math.min(corner[1], viewport.height - high - 10))}px`}
  onpointerdown={(e) => e.stopPropagation()}
  onkeydown={keys}
  onpaste={pasted}
>
  <div class="rows">
    <table>
      <thead>
        <tr>
          {#each room as width, k (k)}
            <th
              ><input
                data-cell={`-1-${k}`}
                style={`width:${width}ch`}
                aria-label={`Title of column ${k + 1}`}
                bind:value={titles[k]}
                readonly={!free}
                maxlength="60"
                onfocus={() => (at = [-1, k])}
              /></th
            >
          {/each}
        </tr>
      </thead>
      <tbody>
        {#each cells, i (i)}
          <tr>
            {#each room as width, k (k)}
              <td
                ><input
                  data-cell={`${i}-${k}`}
                  style={`width:${width}ch`}
                  aria-label={`${titles[k] || `Column ${k + 1}`}, row ${i + 1}`}
                  bind:value={cells[i][k]}
                  maxlength="300"
                  onfocus={() => (at = [i, k])}
                /></td
              >
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <div class="tools">
    {#if free}
      <button onclick={addRow}>Row below</button><button onclick={dropRow}>Without this row</button>
      <button onclick={addColumn}>Column right</button><button onclick={dropColumn}
        >Without this column</button
      >
      <button onclick={sort}>Sort by this column</button>
      <button onclick={() => file?.click()}>Take in CSV</button>
      <input type="file" accept=".csv,.txt,.tsv" hidden bind:this={file} onchange={brought} />
    {/if}
    <button onclick={() => give(`${name()}.csv`, csvOf([titles, ...cells]))}>Give as CSV</button>
    <span class="room"></span>
    <button onclick={() => (work.table = '')}>Leave it</button>
    <button class="go" onclick={keep}>Keep <kbd>Ctrl Enter</kbd></button>
  </div>
</div>

<style>
  .grid {
    position: absolute;
    z-index: 5;
    max-width: calc(100% - 16px);
    background: var(--wash);
    border: 1px solid var(--pen);
    border-radius: 3px;
  }
  .rows {
    overflow: auto;
    max-height: 46vh;
  }
  table {
    border-collapse: collapse;
    background: var(--sheet);
  }
  th,
  td {
    border: 1px solid var(--rule);
    padding: 0;
  }
  td input,
  th input {
    border: 0;
    background: transparent;
    color: var(--pen);
    padding: 3px 6px;
    font: inherit;
  }
  th input {
    font-weight: 600;
  }
  td input:focus,
  th input:focus {
    outline: 2px solid var(--madder);
    outline-offset: -2px;
  }
  .tools {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    padding: 6px;
  }
  .tools button {
    padding: 1px 8px 2px;
  }
  .room {
    flex: 1;
  }
</style>
