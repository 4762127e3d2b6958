<script lang="ts">
  import { onMount, tick } from 'svelte';
  import type { Mark } from '../api/client';
  import Ink from '../lib/Ink.svelte';
  import EmptySheet from './EmptySheet.svelte';
  import FieldEditor from './FieldEditor.svelte';
  import Offers from './Offers.svelte';
  import PlacingHint from './PlacingHint.svelte';
  import PullTabs from './PullTabs.svelte';
  import Waiting from './Waiting.svelte';
  import type { Target } from './hits';
  import { work } from './work.svelte';

  const REACH = 6;
  const DWELL = 180;
  let host: HTMLDivElement;
  let width = $state(800);
  let height = $state(600);
  /** What the window shows of the sheet: centre in mm, and pixels a mm. */
  let cx = $state(210);
  let cy = $state(148);
  let k = $state(2);
  let fitted = 0;
  /** Once a hand has zoomed or moved the sheet, a change of the window leaves it as it is. */
  let zoomed = false;

  type Drag =
    | { kind: 'pan'; x: number; y: number }
    | { kind: 'press'; target: Target | undefined; x: number; y: number }
    | { kind: 'pull'; picks: Target[] }
    | { kind: 'view'; id: string; from: [number, number] }
    | { kind: 'dimension'; id: string; text: boolean }
    | { kind: 'tab'; view: string; side: string };
  let drag = $state.raw<Drag | null>(null);
  let shift = $state<[number, number]>([0, 0]);
  let resting = 0;

  let box = $derived(`${cx - width / 2 / k} ${cy - height / 2 / k} ${width / k} ${height / k}`);
  let px = $derived(1 / k);
  let sheetMarks = $derived((work.ink?.marks ?? []) as Mark[]);
  let groups = $derived.by(() => {
    const found = new Map<string, Mark[]>();
    for (const m of sheetMarks) {
      const g = work.ink?.groups[m.o] ?? m.o;
      if (!found.has(g)) found.set(g, []);
      found.get(g)!.push(m);
    }
    return [...found];
  });
  let moving = $derived(drag?.kind === 'view' ? family(drag.id) : new Set<string>());
  let selectedMarks = $derived.by(() => {
    const s = work.selection;
    if (s.kind === 'dimension' || s.kind === 'centre') return sheetMarks.filter((m) => m.o === s.id);
    if (s.kind === 'geometry') return s.targets.flatMap((t) => t.marks);
    return [];
  });
  let selectedView = $derived.by(() => {
    const s = work.selection;
    return s.kind === 'view' ? work.ink?.views.find((v) => v.id === s.id) : undefined;
  });
  let cursor = $derived(
    drag?.kind === 'pan'
      ? 'grabbing'
      : drag?.kind === 'view'
        ? 'move'
        : work.doing.kind === 'placing' || drag?.kind === 'pull'
          ? 'crosshair'
          : 'default',
  );

  onMount(() => {
    const watch = new ResizeObserver(() => {
      width = host.clientWidth;
      height = host.clientHeight;
      if (!zoomed) whole();
    });
    watch.observe(host);
    return () => watch.disconnect();
  });
  $effect(() => {
    const w = work.ink?.width;
    const h = work.ink?.height;
    if (!w) fitted = 0;
    if (w && h && fitted !== w * 10000 + h) {
      fitted = w * 10000 + h;
      void tick().then(whole);
    }
  });

  /** Show the whole sheet. */
  export function whole() {
    const ink = work.ink;
    if (!ink) return;
    zoomed = false;
    cx = ink.width / 2;
    cy = ink.height / 2;
    k = Math.min((width - 36) / ink.width, (height - 28) / ink.height);
  }

  /** Zoom about a point of the window, or its middle. */
  export function zoom(by: number, x = width / 2, y = height / 2) {
    zoomed = true;
    const next = Math.min(120, Math.max(0.2, k * by));
    cx += (x - width / 2) * (1 / k - 1 / next);
    cy += (y - height / 2) * (1 / k - 1 / next);
    k = next;
  }

  /** Let go of what is dragged; true where something was. */
  export function letGo(): boolean {
    const was = drag !== null && drag.kind !== 'press';
    drag = null;
    shift = [0, 0];
    return was;
  }

  /** Press what is pointed at, as a click would. */
  export function press() {
    click(work.target, false);
  }

  function point(e: { clientX: number; clientY: number }): [number, number] {
    const r = host.getBoundingClientRect();
    return [cx + (e.clientX - r.left - width / 2) / k, cy + (e.clientY - r.top - height / 2) / k];
  }

  function family(id: string): Set<string> {
    const found = new Set([id]);
    for (let grown = true; grown;) {
      grown = false;
      for (const v of work.views)
        if (v.parent && v.tied !== false && found.has(v.parent) && !found.has(v.id)) {
          found.add(v.id);
          grown = true;
        }
    }
    return found;
  }

  function look(e: PointerEvent): [number, number] {
    const p = point(e);
    work.pointer = p;
    work.hover = work.hits?.at(p[0], p[1], REACH / k) ?? [];
    work.hoverAt = 0;
    return p;
  }

  function down(e: PointerEvent) {
    if ((e.target as Element).closest('.over')) return;
    (document.activeElement as HTMLElement | null)?.blur?.();
    if (e.button === 1 || (e.button === 0 && e.shiftKey)) {
      drag = { kind: 'pan', x: e.clientX, y: e.clientY };
      host.setPointerCapture(e.pointerId);
      e.preventDefault();
      return;
    }
    if (e.button !== 0) return;
    const tab = (e.target as Element).closest('[data-side]');
    look(e);
    host.setPointerCapture(e.pointerId);
    if (tab && work.selection.kind === 'view') {
      startTab(work.selection.id, tab.getAttribute('data-side')!);
      return;
    }
    if (work.doing.kind === 'placing') return;
    drag = { kind: 'press', target: work.target, x: e.clientX, y: e.clientY };
  }

  function startTab(view: string, side: string) {
    drag = { kind: 'tab', view, side };
    work.stop();
    work.doing = { kind: 'pulling-view', view, side };

    work.ask({ act: 'pull_view', view, side, to: work.up(work.pointer) });
  }

  function move(e: PointerEvent) {
    if (drag?.kind === 'pan') {
      cx -= (e.clientX - drag.x) / k;
      cy -= (e.clientY - drag.y) / k;
      drag = { kind: 'pan', x: e.clientX, y: e.clientY };
      return;
    }
    const p = look(e);
    if (work.doing.kind === 'placing') return work.followPlacing();
    if (!drag) return;
    if (drag.kind === 'press' && Math.hypot(e.clientX - drag.x, e.clientY - drag.y) > 4) begin(drag);
    if (drag.kind === 'pull') pull(drag);
    else if (drag.kind === 'view') shift = bound(drag.id, [p[0] - drag.from[0], p[1] - drag.from[1]]);
    else if (drag.kind === 'dimension')
      work.ask({ act: 'move_dimension', id: drag.id, pointer: work.up(p), text_only: drag.text });
    else if (drag.kind === 'tab')
      work.ask({ act: 'pull_view', view: drag.view, side: drag.side, to: work.up(p) });
  }

  function begin(from: Extract<Drag, { kind: 'press' }>) {
    const t = from.target;
    if (t?.kind === 'line' || t?.kind === 'point' || t?.kind === 'centre') {
      drag = { kind: 'pull', picks: [t] };
    } else if (t?.kind === 'dimension') {
      work.selection = { kind: 'dimension', id: t.owner };
      drag = { kind: 'dimension', id: t.owner, text: t.at === 'text' };
    } else if (t?.kind === 'view') {
      work.selection = { kind: 'view', id: t.view };
      drag = { kind: 'view', id: t.view, from: point({ clientX: from.x, clientY: from.y }) };
    } else if (work.doing.kind === 'nothing' && !t) drag = { kind: 'pan', x: from.x, y: from.y };
  }

  /** Pulling out of geometry: a second piece is caught where the pointer comes to rest on it. */
  function pull(now: Extract<Drag, { kind: 'pull' }>) {
    const first = now.picks[0];
    const over = work.hover.find(
      (t) =>
        (t.kind === 'point' || t.kind === 'line' || t.kind === 'centre') &&
        t.view === first.view &&
        !(t.ref === first.ref && t.at === first.at),
    );
    clearTimeout(resting);
    // a frame is let pass first, so that movements that a busy machine has not told of yet count
    if (over)
      resting = window.setTimeout(() => {
        const mine = resting;
        requestAnimationFrame(() =>
          setTimeout(() => {
            if (drag === now && resting === mine) catchSecond(now, over);
          }),
        );
      }, DWELL);
    if (now.picks.length > 1 || first.kind === 'line') work.ask(work.pullAct(now.picks, ''));
  }

  function catchSecond(now: Extract<Drag, { kind: 'pull' }>, over: Target) {
    drag = { kind: 'pull', picks: [now.picks[0], over] };
    work.ask(work.pullAct(drag.picks, ''));
  }

  function bound(id: string, by: [number, number]): [number, number] {
    const view = work.views.find((v) => v.id === id);
    if (!view?.parent || view.tied === false || view.look === 'corner') return by;
    return view.look === 'top' || view.look === 'bottom' ? [0, by[1]] : [by[0], 0];
  }

  async function up(e: PointerEvent) {
    const now = drag;
    drag = null;
    if (now?.kind === 'pan') return;
    look(e);
    if (work.doing.kind === 'placing') {
      const t = work.target;
      if (
        work.doing.picks.length === 1 &&
        work.doing.wish === '' &&
        (t?.kind === 'line' || t?.kind === 'point' || t?.kind === 'centre') &&
        t.view === work.doing.picks[0].view &&
        t.ref !== work.doing.picks[0].ref
      )
        return work.place([work.doing.picks[0], t]);
      return work.finishPlacing();
    }
    if (now?.kind === 'press') click(now.target, e.ctrlKey || e.metaKey);
    else if (now?.kind === 'pull') {
      if (now.picks.length === 1 && now.picks[0].kind !== 'line') return work.stop();
      work.doing = { kind: 'placing', picks: now.picks, wish: '' };
      await work.finishPlacing();
    } else if (now?.kind === 'view') {
      const view = work.views.find((v) => v.id === now.id);
      const [dx, dy] = shift;
      if (view && (dx || dy))
        await work.operation({ op: 'move_view', view: now.id, to: [view.place[0] + dx, view.place[1] - dy] });
      shift = [0, 0];
    } else if (now?.kind === 'dimension') {
      const act = { act: 'move_dimension', id: now.id, pointer: work.up(work.pointer), text_only: now.text };
      work.stop();
      await work.act(act);
    } else if (now?.kind === 'tab') {
      work.stop();

      const state = await work.act({
        act: 'pull_view',
        view: now.view,
        side: now.side,
        to: work.up(work.pointer),
      });
      const made = state?.created?.find((id) => id.startsWith('v'));
      if (made) work.selection = { kind: 'view', id: made };
    }
  }

  function click(t: Target | undefined, more: boolean) {
    work.field = null;
    if (!t) work.selection = { kind: 'sheet' };
    else if (t.kind === 'field') {
      work.selection = { kind: 'sheet' };
      if (t.field && !t.field.auto) work.field = t.field.field;
    } else if (t.kind === 'view') work.selection = { kind: 'view', id: t.view };
    else if (t.kind === 'dimension') work.selection = { kind: 'dimension', id: t.owner };
    else if (t.kind === 'centre' && work.selection.kind !== 'geometry')
      work.selection = { kind: 'centre', id: t.owner };
    else {
      const now = work.selection;
      const same =
        now.kind === 'geometry' &&
        now.targets.length === 1 &&
        now.targets[0].view === t.view &&
        !(now.targets[0].ref === t.ref && now.targets[0].at === t.at);
      if (same && now.kind === 'geometry') {
        // the second click: both are measured, the third sets the dimension down
        const picks = [now.targets[0], t];
        work.selection = { kind: 'geometry', targets: picks };
        work.place(picks);
      } else work.selection = { kind: 'geometry', targets: [t] };
      void more;
    }
  }

  let at = $derived<[number, number]>([
    (work.pointer[0] - cx) * k + width / 2,
    (work.pointer[1] - cy) * k + height / 2,
  ]);
  let hovered = $derived(work.target);
  let word = $derived(
    work.previewWords && work.doing.kind !== 'nothing'
      ? work.previewWords
      : drag?.kind === 'pull' || drag?.kind === 'dimension'
        ? work.previewWords
        : (hovered?.words ?? ''),
  );
  let anchorOf = $derived.by<[number, number] | null>(() => {
    const s = work.selection;
    if (s.kind === 'geometry') return [s.targets.at(-1)!.x, s.targets.at(-1)!.y];
    const marks = s.kind === 'dimension' || s.kind === 'centre' ? selectedMarks : [];
    const text = marks.find((m) => m.m === 't');
    if (text) return [text.x ?? 0, text.y ?? 0];
    if (marks.length) return [marks[0].pts?.[0] ?? 0, marks[0].pts?.[1] ?? 0];
    if (selectedView) return [selectedView.x + selectedView.width, selectedView.y + selectedView.height];
    return null;
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<div
  class="desk"
  bind:this={host}
  role="application"
  aria-label="Sheet"
  tabindex="0"
  style={`cursor: ${cursor}`}
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointercancel={() => ((drag = null), work.stop(), (shift = [0, 0]))}
  onwheel={(e) => {
    e.preventDefault();
    const r = host.getBoundingClientRect();
    zoom(Math.exp(-e.deltaY * 0.0016), e.clientX - r.left, e.clientY - r.top);
  }}
  onauxclick={(e) => e.preventDefault()}
>
  {#if work.ink}
    <svg viewBox={box} {width} {height}>
      <rect
        width={work.ink.width}
        height={work.ink.height}
        fill="#FEFDF9"
        stroke="#C3C6BC"
        stroke-width={px}
      />
      {#each groups as [group, marks] (group)}
        <g
          data-view={group}
          transform={moving.has(group) ? `translate(${shift[0]} ${shift[1]})` : undefined}
          opacity={drag?.kind === 'dimension' ? undefined : 1}
        >
          <Ink
            marks={drag?.kind === 'dimension' && work.preview.length
              ? marks.filter((m) => m.o !== (drag as { id: string }).id)
              : marks}
          />
        </g>
      {/each}
      {#if selectedView && drag?.kind !== 'view'}
        <rect
          x={selectedView.x - 4 * px}
          y={selectedView.y - 4 * px}
          width={selectedView.width + 8 * px}
          height={selectedView.height + 8 * px}
          fill="none"
          stroke="#B0412A"
          stroke-width={px}
          stroke-dasharray={`${2 * px} ${3 * px}`}
        />
      {/if}
      {#if drag?.kind !== 'dimension'}<Ink marks={selectedMarks} colour="#B0412A" />{/if}
      {#if hovered && !drag}
        {#each hovered.marks as m, i (i)}
          {#if m.m === 's'}<path
              d={m.d}
              fill="none"
              stroke="#1C7C6E"
              stroke-width={Math.max(2.6 * px, (m.w ?? 0.25) * 1.3)}
              opacity="0.55"
            />{/if}
        {/each}
      {/if}
      {#if hovered?.kind === 'point'}
        <circle
          cx={hovered.x}
          cy={hovered.y}
          r={4.5 * px}
          fill="none"
          stroke="#1C7C6E"
          stroke-width={1.6 * px}
        />
      {/if}
      {#if drag?.kind === 'pull' || work.doing.kind === 'placing'}
        {#each drag?.kind === 'pull' ? drag.picks : work.doing.kind === 'placing' ? work.doing.picks : [] as t, i (i)}
          {#each t.marks as m, j (j)}{#if m.m === 's'}<path
                d={m.d}
                fill="none"
                stroke="#1C7C6E"
                stroke-width={2.6 * px}
                opacity="0.7"
              />{/if}{/each}
          {#if t.kind === 'point'}<circle
              cx={t.x}
              cy={t.y}
              r={4.5 * px}
              fill="none"
              stroke="#1C7C6E"
              stroke-width={1.6 * px}
            />{/if}
        {/each}
      {/if}
      <Ink marks={work.preview} colour={drag?.kind === 'tab' ? '#1C7C6E' : '#B0412A'} />
      {#if selectedView && !drag && work.doing.kind === 'nothing'}<PullTabs view={selectedView} {px} />{/if}
    </svg>
    {#if word && (hovered || work.doing.kind !== 'nothing')}
      <div class="word" style={`left:${Math.min(at[0] + 16, width - 190)}px;top:${at[1] - 26}px`}>{word}</div>
    {/if}
    {#if anchorOf && !drag && work.doing.kind === 'nothing'}
      <Offers
        x={(anchorOf[0] - cx) * k + width / 2}
        y={(anchorOf[1] - cy) * k + height / 2}
        {width}
        {height}
      />
    {/if}
    <PlacingHint />
    <Waiting {cx} {cy} {k} {width} {height} />
    {#if work.field}<FieldEditor {cx} {cy} {k} {width} {height} />{/if}
    <EmptySheet />
    {#if work.busy}<div class="busy" role="status">{work.busy}…</div>{/if}
  {:else}
    <p class="opening">Projecting the views…</p>
  {/if}
</div>

<style>
  .desk {
    position: relative;
    overflow: hidden;
    background: var(--desk);
    touch-action: none;
    outline: none;
    user-select: none;
  }
  svg {
    display: block;
  }
  .word {
    position: absolute;
    pointer-events: none;
    color: #1c7c6e;
    font-size: 14px;
    font-weight: 500;
    background: #fefdf9e6;
    padding: 0 5px 1px;
    border-radius: 3px;
    max-width: 420px;
  }
  .busy {
    position: absolute;
    top: 10px;
    left: 50%;
    transform: translateX(-50%);
    background: var(--wash);
    border: 1px solid var(--rule);
    border-radius: 3px;
    padding: 2px 12px 3px;
    color: var(--ink2);
  }
  .opening {
    padding: 30px;
    color: var(--ink2);
  }
</style>
