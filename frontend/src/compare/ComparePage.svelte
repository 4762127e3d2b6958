<script lang="ts">
  import { onMount } from 'svelte';
  import { api, type Comparison, type IssueInfo, type Step } from '../api/client';
  import Elements from '../lib/Elements.svelte';
  import { notices } from '../lib/notices.svelte';
  import PageHead from '../lib/PageHead.svelte';
  import { patiently } from '../lib/patience';
  import { router } from '../lib/router.svelte';

  /** Two states of a drawing: what differs, as a picture of each sheet and in words. */
  let { id, before, after }: { id: number; before: string; after: string } = $props();
  let steps = $state.raw<Step[]>([]);
  let issues = $state.raw<IssueInfo[]>([]);
  let found = $state.raw<Comparison | null>(null);
  let trouble = $state('');
  let own = $state('');
  let lit = $state(-1);
  let title = $state('');
  /** Marks of the revision on the drawing: its letter, and how. */
  let letter = $state('A');
  let form = $state<'triangle' | 'cloud'>('triangle');
  let sheetsNow = $state.raw<string[]>([]);
  let host = $state<HTMLDivElement>();
  let pane = $state({ width: 900, height: 700 });
  /** What of the sheet is shown: its middle in mm, and pixels a mm. */
  let shown = $state({ x: 210, y: 148, k: 2 });
  let dragged: [number, number] | null = null;

  let sheet = $derived(found?.sheets.find((s) => s.id === own) ?? found?.sheets[0]);
  let changes = $derived(found?.changes ?? []);
  let file = $derived(
    (kind: string, one: boolean) =>
      `/api/drawings/${id}/comparison/${kind}?before=${encodeURIComponent(before)}&after=${encodeURIComponent(after)}${one && sheet ? `&sheet=${sheet.id}` : ''}`,
  );
  const COLOURS: { [layer: string]: string } = {
    kept: 'var(--ink2)',
    gone: 'var(--ochre)',
    come: 'var(--verd)',
    moved: 'var(--madder)',
  };
  const SAYS: { [kind: string]: string } = { gone: 'gone', come: 'new', moved: 'moved', changed: 'changed' };

  onMount(async () => {
    try {
      [steps, issues] = await Promise.all([api.history(id), api.issues(id)]);
      while (steps.length && steps[0].position > 0 && steps.length < 1000)
        steps = [...(await api.history(id, steps[0].position)), ...steps];
      const state = await api.drawing(id);
      const fields = state.document.fields ?? {};
      sheetsNow = state.document.sheets.map((s) => s.id);
      letter = fields.revision?.trim() || (issues.length ? 'B' : 'A');
      const part = state.document.parts?.[0];
      title = [fields.number ?? part?.number, fields.title ?? part?.name].filter(Boolean).join(' ');
      if (!before || !after)
        go(before || (issues.length ? `issue-${issues[0].letter}` : 'step-0'), after || 'now');
    } catch (error) {
      notices.refuse(error);
    }
  });

  $effect(() => {
    const [a, b] = [before, after];
    if (!a || !b) return;
    found = null;
    trouble = '';
    lit = -1;
    patiently(
      () => api.comparison(id, a, b),
      () => a === before && b === after,
    ).then(
      (told) => {
        if (a !== before || b !== after) return;
        found = told;
        own =
          told.sheets.find((s) => told.changes.some((c) => c.sheet === s.id))?.id ?? told.sheets[0]?.id ?? '';
        whole();
      },
      (error) => (trouble = (error as Error).message),
    );
  });

  $effect(() => {
    if (!host) return;
    const watch = new ResizeObserver(() => {
      pane = { width: host!.clientWidth, height: host!.clientHeight };
      if (lit < 0) whole();
    });
    watch.observe(host);
    return () => watch.disconnect();
  });

  function go(a: string, b: string) {
    router.go('compare', id, encodeURIComponent(a), encodeURIComponent(b));
  }
  function whole() {
    if (!sheet) return;
    const k = Math.min((pane.width - 30) / sheet.width, (pane.height - 30) / sheet.height);
    shown = { x: sheet.width / 2, y: sheet.height / 2, k };
  }
  function look(k: number) {
    lit = lit === k ? -1 : k;
    const change = changes[k];
    if (lit < 0 || !change) return whole();
    if (change.sheet) own = change.sheet;
    const b = change.box;
    if (!b) return whole();
    const room = Math.min(pane.width / (b.width + 60), pane.height / (b.height + 60));
    shown = { x: b.x + b.width / 2, y: b.y + b.height / 2, k: Math.min(6, room) };
  }
  function step(by: number) {
    if (changes.length) look((lit + by + changes.length + (lit < 0 && by < 0 ? 1 : 0)) % changes.length);
  }
  function wheel(e: WheelEvent) {
    e.preventDefault();
    const r = host!.getBoundingClientRect();
    const next = Math.min(40, Math.max(0.3, shown.k * Math.exp(-e.deltaY * 0.0016)));
    const [px, py] = [e.clientX - r.left - pane.width / 2, e.clientY - r.top - pane.height / 2];
    shown = {
      x: shown.x + px * (1 / shown.k - 1 / next),
      y: shown.y + py * (1 / shown.k - 1 / next),
      k: next,
    };
  }
  function keys(e: KeyboardEvent) {
    if ((e.target as HTMLElement).closest('select, input')) return;
    if (e.key === 'Escape') {
      if (lit < 0) router.go('drawing', id);
      else look(lit);
    } else if (e.key === 'n' || e.key === 'N') step(e.shiftKey ? -1 : 1);
    else if (e.key === '0') whole();
    else if (e.key === '+' || e.key === '=') shown = { ...shown, k: shown.k * 1.25 };
    else if (e.key === '-') shown = { ...shown, k: shown.k * 0.8 };
    else return;
    e.preventDefault();
  }
  /** What can be marked on the drawing as it stands: sizes and signs, or where there are none views; not what only stands
   *  elsewhere. */
  let marked = $derived.by(() => {
    const there = changes.filter(
      (c) => c.box && c.kind !== 'moved' && c.kind !== 'gone' && sheetsNow.includes(c.sheet),
    );
    const signs = there.filter((c) => c.of === 'annotation');
    if (after !== 'now') return [];
    return signs.length ? signs : there.filter((c) => c.of === 'view');
  });
  async function mark() {
    const heights = new Map((found?.sheets ?? []).map((s) => [s.id, s.height]));
    const places = marked.flatMap((c) =>
      c.box
        ? [
            {
              sheet: c.sheet,
              x: c.box.x,
              y: (heights.get(c.sheet) ?? 0) - c.box.y - c.box.height,
              width: c.box.width,
              height: c.box.height,
            },
          ]
        : [],
    );
    try {
      const state = await api.drawing(id);
      await api.act(id, state.edit, { act: 'mark_changes', letter, form, places, alone: true });
      router.go('drawing', id);
    } catch (error) {
      notices.refuse(error);
    }
  }
  let box = $derived(
    `${shown.x - pane.width / 2 / shown.k} ${shown.y - pane.height / 2 / shown.k} ${pane.width / shown.k} ${pane.height / shown.k}`,
  );
</script>

{#snippet states(value: string, label: string, onset: (v: string) => void)}
  <label
    >{label}
    <select
      class="field"
      aria-label={`State ${label.toLowerCase()}`}
      {value}
      onchange={(e) => onset(e.currentTarget.value)}
    >
      <option value="now">as it stands</option>
      {#each issues as i (i.id)}<option value={`issue-${i.letter}`}>issue {i.letter}, {i.date}</option>{/each}
      {#each [...steps].reverse() as s (s.position)}
        <option value={`step-${s.position}`}>after step {s.position}: {s.label}</option>
      {/each}
    </select></label
  >
{/snippet}

<svelte:window onkeydown={keys} />

<PageHead {title} about="what differs">
  <a class="quiet" href={file('pdf', false)} download>PDF of all sheets</a>
  <a class="quiet" href={file('dxf', true)} download>DXF</a>
  <a class="quiet" href={file('svg', true)} download>SVG</a>
  <button class="go" onclick={() => router.go('drawing', id)}>Back to the drawing</button>
</PageHead>
<main>
  <aside>
    {@render states(before, 'Before', (v) => go(v, after))}
    {@render states(after, 'After', (v) => go(before, v))}
    <ul class="legend" aria-label="How it is drawn">
      <li>
        <svg viewBox="0 0 40 8"><path d="M0 4H40" stroke="var(--ink2)" stroke-width="1" /></svg>as before
      </li>
      <li><svg viewBox="0 0 40 8"><path d="M0 4H40" stroke="var(--verd)" stroke-width="2.4" /></svg>new</li>
      <li>
        <svg viewBox="0 0 40 8"
          ><path d="M0 4H40" stroke="var(--ochre)" stroke-width="1" stroke-dasharray="12 3 1 3 1 3" /></svg
        >gone
      </li>
    </ul>
    {#if found}
      <h2>
        {changes.length
          ? `${changes.length} ${changes.length === 1 ? 'change' : 'changes'}`
          : 'Nothing differs'}
      </h2>
      <ul aria-label="What differs">
        {#each changes as c, k (k)}
          <li>
            <button aria-pressed={lit === k} onclick={() => look(k)}
              ><b class={c.kind}>{SAYS[c.kind]}</b> {c.words}</button
            >
          </li>
        {/each}
      </ul>
      {#if marked.length}
        <form
          onsubmit={(e) => {
            e.preventDefault();
            void mark();
          }}
        >
          <label
            >Mark {marked.length === 1 ? 'it' : `these ${marked.length}`} as revision
            <input class="field" bind:value={letter} maxlength="4" pattern="[A-Z0-9\-]+" required /></label
          >
          <label
            >with
            <select class="field" bind:value={form}>
              <option value="triangle">triangles</option>
              <option value="cloud">clouds</option>
            </select></label
          >
          <button class="quiet">Mark on the drawing</button>
        </form>
      {/if}
      {#if changes.length > 1}<p class="dim">N goes from one to the next, 0 shows the whole sheet.</p>{/if}
    {:else if trouble}
      <p class="bad">{trouble}</p>
    {:else}
      <p class="dim">Drawing both…</p>
    {/if}
  </aside>
  <section>
    {#if (found?.sheets.length ?? 0) > 1}
      <nav aria-label="Sheets">
        {#each found?.sheets ?? [] as s (s.id)}
          <button
            aria-current={s.id === sheet?.id ? 'page' : undefined}
            onclick={() => {
              own = s.id;
              lit = -1;
              whole();
            }}>{s.name}{changes.some((c) => c.sheet === s.id) ? ' ·' : ''}</button
          >
        {/each}
      </nav>
    {/if}
    <div
      class="pane"
      bind:this={host}
      role="img"
      aria-label="Picture of what differs"
      onwheel={wheel}
      onpointerdown={(e) => {
        dragged = [e.clientX, e.clientY];
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onpointermove={(e) => {
        if (!dragged) return;
        shown = {
          ...shown,
          x: shown.x - (e.clientX - dragged[0]) / shown.k,
          y: shown.y - (e.clientY - dragged[1]) / shown.k,
        };
        dragged = [e.clientX, e.clientY];
      }}
      onpointerup={() => (dragged = null)}
      onpointercancel={() => (dragged = null)}
    >
      {#if sheet}
        <svg viewBox={box} width={pane.width} height={pane.height}>
          <rect
            width={sheet.width}
            height={sheet.height}
            fill="var(--sheet)"
            stroke="var(--rule)"
            stroke-width={1 / shown.k}
          />
          {#each sheet.elements as e (e.id)}
            <Elements elements={[e]} colour={COLOURS[e.id] ?? 'var(--pen)'} />
          {/each}
          {#each changes as c, k (k)}
            {#if c.box && c.sheet === sheet.id && k === lit}
              <rect
                x={c.box.x - 3}
                y={c.box.y - 3}
                width={c.box.width + 6}
                height={c.box.height + 6}
                fill="none"
                stroke="var(--madder)"
                stroke-width={1.5 / shown.k}
              />
            {/if}
          {/each}
        </svg>
      {/if}
    </div>
  </section>
</main>

<style>
  main {
    height: calc(100vh - 44px);
    display: grid;
    grid-template-columns: 320px 1fr;
  }
  aside {
    overflow: auto;
    padding: 12px 14px;
    background: var(--wash);
    border-right: 1px solid var(--rule);
    font-size: 15px;
  }
  section {
    display: grid;
    grid-template-rows: auto 1fr;
    min-width: 0;
    min-height: 0;
    background: var(--desk);
  }
  .pane {
    overflow: hidden;
    min-height: 0;
    grid-row: 2;
    touch-action: none;
  }
  label {
    display: grid;
    color: var(--ink2);
    margin-bottom: 6px;
  }
  select {
    width: 100%;
    color: var(--ink);
  }
  h2 {
    font-size: 17px;
    font-weight: 700;
    margin: 10px 0 4px;
  }
  nav {
    display: flex;
    gap: 4px;
    padding: 6px 10px 0;
  }
  nav button {
    padding: 2px 10px 3px;
    border: 1px solid var(--rule);
    border-radius: 3px;
  }
  nav [aria-current] {
    background: var(--sheet);
    border-color: var(--ink);
    font-weight: 500;
  }
  li button {
    text-align: left;
    width: 100%;
    padding: 3px 6px;
    border-bottom: 1px dotted var(--rule);
  }
  li button[aria-pressed='true'] {
    background: var(--field);
    box-shadow: inset 3px 0 var(--madder);
  }
  b {
    font-weight: 500;
  }
  .gone {
    color: var(--ochre);
  }
  .come {
    color: var(--verd);
  }
  .moved {
    color: var(--madder);
  }
  form {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px;
    margin-top: 10px;
  }
  form button {
    grid-column: 1/3;
  }
  .legend {
    display: flex;
    gap: 12px;
    color: var(--ink2);
    font-size: 14px;
    padding-top: 4px;
  }
  .legend li {
    display: flex;
    align-items: center;
    gap: 5px;
  }
  .legend svg {
    width: 40px;
  }
  .dim {
    color: var(--ink2);
    margin-top: 8px;
  }
  .bad {
    color: var(--ochre);
  }
</style>
