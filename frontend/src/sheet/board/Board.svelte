<script lang="ts">
  import { onMount, tick } from 'svelte';
  import Elements from '../../lib/Elements.svelte';
  import Ink from '../../lib/Ink.svelte';
  import { interaction } from '../interaction.svelte';
  import CutHandles from './CutHandles.svelte';
  import EmptySheet from './EmptySheet.svelte';
  import EndHandles from './EndHandles.svelte';
  import FieldEditor from './FieldEditor.svelte';
  import TitleCells from './TitleCells.svelte';
  import { titling } from '../titling.svelte';
  import TableGrid from './TableGrid.svelte';
  import FitCard from '../cards/FitCard.svelte';
  import type { Gesture } from '../gestures/gesture';
  import Ghosts from './Ghosts.svelte';
  import GuideMarks from './GuideMarks.svelte';
  import { gestureOfHandle } from '../gestures/handle';
  import { gestureOfOutline } from '../gestures/outline';
  import { gestureOfPan } from '../gestures/pan';
  import { gestureOfPull } from '../gestures/pull.svelte';
  import { gestureOfWindow } from '../gestures/window.svelte';
  import type { Target } from './hits';
  import { kinds } from '../kinds';
  import { viewOf } from '../parts_of_views';
  import Offers from './Offers.svelte';
  import LookCard from '../cards/LookCard.svelte';
  import ViewLookCard from '../cards/ViewLookCard.svelte';
  import PlacingHint from './PlacingHint.svelte';
  import { pullable } from './pointing';
  import Lit from './Lit.svelte';
  import PointerWord from './PointerWord.svelte';
  import PullTabs from './PullTabs.svelte';
  import { selected } from '../selection.svelte';
  import { viewport } from './viewport.svelte';
  import Waiting from './Waiting.svelte';
  import { work } from '../work.svelte';

  const REACH = 6;
  /** Screen pixels for a mm of the sheet below which the widest lines of an A3 are little more than one wide. */
  const THICK = 2.6;
  let host: HTMLDivElement;
  let fitted = 0;

  type Press = { target: Target | undefined; x: number; y: number; shift: boolean };
  let press: Press | null = null;
  let gesture = $state<Gesture | null>(null);

  let px = $derived(viewport.px);
  let drawn = $derived(
    (work.ink?.elements ?? []).filter(
      (e) => !interaction.preview.length || !(gesture?.hides?.has(e.id) || interaction.hides.includes(e.id)),
    ),
  );
  /** What has lost that on which it hung is shown as such. */
  let lost = $derived(
    new Set(
      work.annotations.filter((a) => a.was && work.ink?.remarks.some((r) => r.on === a.id)).map((a) => a.id),
    ),
  );
  let chosen = $derived(
    selected.ids.flatMap((id) => (gesture?.hides?.has(id) ? [] : (work.elements.get(id) ?? []))),
  );
  let chosenViews = $derived((work.ink?.views ?? []).filter((v) => selected.ids.includes(v.id)));
  let oneView = $derived(chosenViews.length === 1 && selected.one ? chosenViews[0] : undefined);
  /** A selected line whose ends can be dragged. */
  let ended = $derived(
    kinds.get(work.elements.get(selected.one)?.kind ?? '')?.ended
      ? work.elements.get(selected.one)
      : undefined,
  );
  let picks = $derived(
    gesture?.picks ??
      (interaction.doing.kind === 'placing'
        ? interaction.doing.picks
        : (interaction.doing.kind === 'making' && interaction.doing.making.picks?.()) || selected.targets),
  );
  let idle = $derived(!gesture && interaction.doing.kind === 'nothing');
  let cursor = $derived(gesture?.cursor ?? (interaction.doing.kind === 'nothing' ? 'default' : 'crosshair'));

  onMount(() => {
    const watch = new ResizeObserver(() => {
      viewport.width = host.clientWidth;
      viewport.height = host.clientHeight;
      if (!viewport.touched) whole();
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

  $effect(() => {
    // what was pointed at may not be there any more
    void work.ink;
    interaction.hover = [];
  });

  /** Show the whole sheet. */
  export function whole() {
    if (work.ink) viewport.whole(work.ink.width, work.ink.height);
  }

  /** Let go of what is dragged; true where something was. */
  export function letGo(): boolean {
    const was = gesture !== null;
    gesture?.cancel?.();
    gesture = null;
    press = null;
    return was;
  }

  /** Press what is pointed at, as a click would. */
  export function pressTarget() {
    click(interaction.target, false);
  }

  function point(e: { clientX: number; clientY: number }): [number, number] {
    const r = host.getBoundingClientRect();
    return viewport.sheet(e.clientX - r.left, e.clientY - r.top);
  }

  function down(e: PointerEvent) {
    if ((e.target as Element).closest('.over')) return;
    (document.activeElement as HTMLElement | null)?.blur?.();
    if (e.button === 1) {
      gesture = gestureOfPan(e.clientX, e.clientY);
      host.setPointerCapture(e.pointerId);
      e.preventDefault();
      return;
    }
    if (e.button !== 0) return;
    interaction.look(point(e), REACH / viewport.k);
    host.setPointerCapture(e.pointerId);
    const held = gestureOfHandle(e.target as Element, oneView?.id, ended?.id, point(e));
    if (held) {
      gesture = held;
      return;
    }
    if (
      interaction.doing.kind === 'outlining' &&
      interaction.doing.view &&
      !interaction.doing.points.length
    ) {
      gesture = gestureOfOutline(point(e));
      return;
    }
    if (interaction.doing.kind === 'making') {
      gesture = interaction.doing.making.drag?.(point(e)) ?? null;
      return;
    }
    if (interaction.doing.kind !== 'nothing') return;
    press = { target: interaction.target, x: e.clientX, y: e.clientY, shift: e.shiftKey };
  }

  $effect(() => {
    work.gripped = !!gesture;
  });

  function move(e: PointerEvent) {
    // over a slip the hand is not on the sheet
    if (!gesture && !press && (e.target as Element).closest('.over')) return;
    const at = point(e);
    interaction.alt = e.altKey;
    interaction.look(at, REACH / viewport.k);
    if (press && !gesture && Math.hypot(e.clientX - press.x, e.clientY - press.y) > 4) gesture = begun(press);
    if (gesture) gesture.move(at, e);
    else if (interaction.doing.kind !== 'nothing') interaction.follow();
  }

  function begun(from: Press): Gesture | null {
    const t = from.target;
    press = null;
    const start = point({ clientX: from.x, clientY: from.y });
    if (titling.on) return gestureOfPan(from.x, from.y);
    if (from.shift) return gestureOfWindow(start);
    if (t && pullable(t)) return gestureOfPull(t);
    if (t?.kind === 'element' || t?.kind === 'view') return kinds.get(t.of)?.drag?.(t, start) ?? null;
    return t ? null : gestureOfPan(from.x, from.y);
  }

  async function up(e: PointerEvent) {
    const [now, pressed] = [gesture, press];
    press = null;
    const at = point(e);
    interaction.look(at, REACH / viewport.k);
    if (now) {
      // what is dragged stays where it was dragged to until it is drawn there
      const ended = now.up(at, e);
      await ended;
      if (gesture === now) gesture = null;
      return;
    }
    const doing = interaction.doing;
    if (doing.kind === 'placing') {
      const t = interaction.target;
      if (
        doing.picks.length === 1 &&
        doing.wish === '' &&
        t &&
        pullable(t) &&
        t.view === doing.picks[0].view &&
        t.ref !== doing.picks[0].ref
      )
        return interaction.place([doing.picks[0], t]);
      return interaction.finish();
    }
    if (doing.kind === 'cutting') return interaction.cutClick();
    if (doing.kind === 'outlining') return interaction.outlineClick();
    if (doing.kind === 'making') return interaction.makingClick();
    if (doing.kind !== 'nothing') return interaction.finish();
    if (pressed) click(pressed.target, pressed.shift);
  }

  function click(t: Target | undefined, more: boolean) {
    work.field = null;
    if (titling.on) {
      titling.chosen = [];
      return;
    }
    if (more) {
      if (t && (t.kind === 'element' || t.kind === 'view')) selected.toggle(t.owner);
      else if (t && (t.kind === 'line' || t.kind === 'point')) selected.toggle(t.view);
      return;
    }
    if (!t) selected.nothing();
    else if (t.kind === 'field') {
      selected.nothing();
      if (t.field && !t.field.auto) work.field = t.field.field;
    } else if (t.kind === 'view') selected.elements(t.view);
    else if (kinds.get(t.of)?.ofView) selected.elements(viewOf(t.owner));
    else if (t.kind === 'element' && !(kinds.get(t.of)?.measured && selected.targets.length))
      selected.elements(t.owner);
    else {
      const [first, second] = selected.targets;
      if (first && !second && first.view === t.view && !(first.ref === t.ref && first.at === t.at)) {
        // the second click: both are measured, the third sets the dimension down
        selected.geometry(first, t);
        interaction.place([first, t]);
      } else selected.geometry(t);
    }
  }

  let at = $derived(viewport.window(...interaction.pointer));
  let hovered = $derived(interaction.target);
  /** What is caught while a cutting line grows, or the depth of a local cut is picked. */
  let catching = $derived(
    (interaction.doing.kind === 'cutting' && interaction.doing.growing) ||
      (interaction.doing.kind === 'outlining' && interaction.doing.closed) ||
      (interaction.doing.kind === 'making' && interaction.doing.making.catches?.()),
  );
  let word = $derived.by(() => {
    if (titling.on) return '';
    if (gesture?.warns) return `lies ${gesture.warns}`;
    if (gesture?.guides?.length) return gesture.guides.map((g) => g.words).join(', ');
    const busy = gesture || interaction.doing.kind !== 'nothing';
    const caught = hovered && hovered.kind !== 'view' && hovered.kind !== 'field' ? hovered.words : '';
    if (catching && caught) return caught;
    // what is written is read back in its slip
    if (interaction.doing.kind === 'making' && interaction.doing.making.written?.()) return '';
    return (busy && interaction.words) || hovered?.words || '';
  });
  /** Where offers stand: beside what is selected. */
  let anchorOf = $derived.by<[number, number] | null>(() => {
    const target = selected.targets.at(-1);
    if (target) return [target.x, target.y];
    const view = chosenViews.at(-1);
    if (view) return [view.x + view.width, view.y + view.height];
    const element = chosen.at(-1);
    const text = element?.marks?.find((m) => m.m === 't');
    if (element && text?.m === 't') return [element.x + text.x, element.y + text.y];
    const there = element && work.hits?.of(element.id);
    return there ? [there.x, there.y] : null;
  });
  let offersAt = $derived(anchorOf && viewport.window(...anchorOf));
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="board"
  bind:this={host}
  role="application"
  aria-label="Sheet"
  tabindex="0"
  style={`cursor: ${cursor}`}
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointercancel={() => (letGo(), interaction.stop())}
  onwheel={(e) => {
    e.preventDefault();
    const r = host.getBoundingClientRect();
    // sideways, or with Shift, the wheel moves the sheet; two fingers that part or close zoom faster than a wheel turns
    if (!e.ctrlKey && Math.abs(e.deltaX) > Math.abs(e.deltaY)) viewport.pan(-e.deltaX, 0);
    else
      viewport.zoom(Math.exp(-e.deltaY * (e.ctrlKey ? 0.01 : 0.0016)), e.clientX - r.left, e.clientY - r.top);
  }}
  onauxclick={(e) => e.preventDefault()}
>
  {#if work.ink}
    <svg
      class:fine={px * THICK > window.devicePixelRatio}
      viewBox={viewport.box}
      width={viewport.width}
      height={viewport.height}
      aria-hidden="true"
    >
      <rect
        width={work.ink.width}
        height={work.ink.height}
        fill="var(--sheet)"
        stroke="var(--rule)"
        stroke-width={px}
      />
      <Elements
        elements={lost.size ? drawn.filter((e) => !lost.has(e.id)) : drawn}
        shifted={gesture?.carries}
        by={gesture?.by}
      />
      {#if lost.size}
        <Elements
          elements={drawn.filter((e) => lost.has(e.id))}
          colour="var(--ochre)"
          shifted={gesture?.carries}
          by={gesture?.by}
        />
      {/if}
      <Ghosts />
      {#each chosenViews as v (v.id)}
        {#if !gesture?.carries}
          <rect
            x={v.x - 4 * px}
            y={v.y - 4 * px}
            width={v.width + 8 * px}
            height={v.height + 8 * px}
            fill="none"
            stroke="var(--madder)"
            stroke-width={px}
            stroke-dasharray={`${2 * px} ${3 * px}`}
          />
        {/if}
      {/each}
      <Elements
        elements={chosen.filter((e) => e.kind !== 'view')}
        colour="var(--madder)"
        shifted={gesture?.carries}
        by={gesture?.by}
      />
      {#if hovered && !gesture && !titling.on}<Lit target={hovered} />{/if}
      {#each picks as t, i (i)}<Lit target={t} />{/each}
      {#each interaction.preview as e (e.id)}
        <g transform={`translate(${e.x} ${e.y})`}>
          <Ink
            marks={e.marks ?? []}
            colour={interaction.doing.kind === 'placing' || gesture?.hides ? 'var(--madder)' : 'var(--verd)'}
          />
        </g>
      {/each}
      {#each gesture?.guides ?? [] as g, i (i)}
        {@const [x1, y1, x2, y2] = g.line}
        <line
          {x1}
          {y1}
          {x2}
          {y2}
          stroke="var(--verd)"
          stroke-width={px}
          stroke-dasharray={`${4 * px} ${3 * px}`}
        />
      {/each}
      {#if gesture?.window}
        {@const [x0, y0, x1, y1] = gesture.window}
        <rect
          x={x0}
          y={y0}
          width={x1 - x0}
          height={y1 - y0}
          fill="color-mix(in srgb, var(--verd) 8%, transparent)"
          stroke="var(--verd)"
          stroke-width={px}
        />
      {/if}
    </svg>
    {#if oneView && idle}{#if work.view(oneView.id)?.kind !== 'detail'}<PullTabs
          view={oneView}
        />{/if}<CutHandles view={oneView} />{/if}
    <GuideMarks />
    {#if ended && idle}<EndHandles element={ended} />{/if}
    {#if word && (hovered || gesture?.warns || gesture?.guides?.length || interaction.doing.kind !== 'nothing')}
      <PointerWord {word} {at} />
    {/if}
    {#if offersAt && idle}<Offers x={offersAt[0]} y={offersAt[1]} />{/if}
    <PlacingHint />
    <Waiting />
    {#if work.styling}<LookCard />{/if}
    {#if work.viewStyling}<ViewLookCard />{/if}
    {#if work.fitting}<FitCard />{/if}
    {#if work.field}<FieldEditor />{/if}
    {#if titling.on}<TitleCells />{/if}
    {#key work.table}{#if work.table}<TableGrid />{/if}{/key}
    <EmptySheet />
    {#if work.busy}<div class="busy" role="status">{work.busy}…</div>{/if}
  {:else}
    <p class="opening">Projecting the views…</p>
  {/if}
</div>

<style>
  /* how a line ends cannot be seen then, and round ends take most of the painting */
  .fine :global(path) {
    stroke-linecap: butt;
    stroke-linejoin: bevel;
  }

  .board {
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
