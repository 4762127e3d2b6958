<script lang="ts">
  import { onMount } from 'svelte';
  import { api, type Direction, type PartChanges } from '../api/client';
  import { length } from '../lib/format';
  import { notices } from '../lib/notices.svelte';
  import { shapeFrom, type Shape } from './shape';
  import type { Caught, Stage } from './stage';
  import { facingPlane, laidLevel, orbited, rolled, squared, STANDARD, type Look } from './turning';

  /** A part in space: turned, pointed at, its bodies switched; the direction is handed on with every change. */
  let {
    part,
    look = $bindable(STANDARD[6][1]),
    kept = [],
    onkeep,
    onforget,
    beside = null,
  }: {
    part: string;
    look?: Look;
    kept?: Direction[];
    onkeep?: (name: string, look: Look) => void;
    onforget?: (name: string) => void;
    /** What lies over the part of another revision, and which of the faces of both are lit. */
    beside?: { changes: PartChanges; before: number[]; after: number[] } | null;
  } = $props();

  let former = $state.raw<Shape | null>(null);
  let ready = $state(false);

  let host: HTMLDivElement;
  let canvas: HTMLCanvasElement;
  let stage: Stage | null = null;
  let bodies = $state<string[]>([]);
  let left = $state(new Set<number>());
  let trouble = $state('');
  let opening = $state(true);
  let caught = $state<Caught | null>(null);
  let size = $state<[number, number, number] | null>(null);
  let triangles = 0;
  let angle = $state('');
  let name = $state('');
  let drag: { x: number; y: number; pan: boolean; far: boolean } | null = null;

  onMount(() => {
    let gone = false;
    void (async () => {
      try {
        const [{ Stage }, data] = await Promise.all([import('./stage'), api.shape(part)]);
        if (gone) return;
        const shape = shapeFrom(data);
        bodies = shape.bodies;
        triangles = shape.face_of.length;
        size = shape.high.map((h, k) => h - shape.low[k]) as [number, number, number];
        try {
          stage = new Stage(canvas, shape, look);
          stage.fit();
          ready = true;
          if (beside) former = shapeFrom(await api.shape(beside.changes.since));
        } catch {
          trouble =
            'This browser cannot draw in space. Choose the front from the six small pictures, or type its direction.';
        }
      } catch (error) {
        notices.refuse(error);
        trouble = 'The part could not be fetched.';
      }
      opening = false;
    })();
    const watch = new ResizeObserver(() => stage?.draw());
    watch.observe(canvas);
    return () => {
      gone = true;
      watch.disconnect();
      stage?.end();
      stage = null;
    };
  });

  $effect(() => {
    // turned from outside
    if (stage && stage.look !== look) stage.turnTo(look);
  });

  $effect(() => {
    if (!ready || !former || !beside) return;
    const { turn, by, lines_before, lines_after } = beside.changes;
    const faces: [number[], number[]] = [beside.before, beside.after];
    stage?.compare(former, { turn, by, faces, lines: [lines_before, lines_after] });
  });

  function turn(next: Look, fit = false) {
    look = squared(next);
    stage?.turnTo(look, fit);
  }

  function down(e: PointerEvent) {
    host.focus();
    drag = { x: e.clientX, y: e.clientY, pan: e.button !== 0 || e.shiftKey, far: false };
    host.setPointerCapture(e.pointerId);
    if (e.button === 1) e.preventDefault();
  }

  function place(e: MouseEvent): [number, number] {
    const r = canvas.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top];
  }

  function move(e: PointerEvent) {
    if (!drag) {
      // of a very large part only what is clicked is looked for
      if (stage && triangles < 150_000) point(e);
      return;
    }
    const [dx, dy] = [e.clientX - drag.x, e.clientY - drag.y];
    if (!drag.far && Math.hypot(dx, dy) < 4) return;
    if (!drag.far) stage?.turning(true);
    drag = { ...drag, x: e.clientX, y: e.clientY, far: true };
    if (drag.pan) stage?.pan(dx, dy);
    else {
      caught = null;
      look = orbited(look, dx * 0.01, dy * 0.01);
      stage?.turnTo(look);
    }
  }

  function point(e: PointerEvent) {
    const next = stage?.at(...place(e)) ?? null;
    const same =
      next?.kind === caught?.kind &&
      (next?.kind === 'face' ? next.face : next?.edge) ===
        (caught?.kind === 'face' ? caught.face : caught?.edge);
    if (!same) stage?.mark(next);
    caught = next;
  }

  function up(e: PointerEvent) {
    const was = drag;
    drag = null;
    stage?.turning(false);
    if (was?.far) {
      look = squared(look);
      return;
    }
    point(e);
    if (caught?.kind === 'face' && caught.plane) turn(facingPlane(look, caught.axis));
    else if (caught?.kind === 'edge') turn(laidLevel(look, caught.along));
  }

  const words = $derived(
    caught?.kind === 'edge'
      ? 'straight edge: click to lay it level'
      : caught?.kind === 'face' && caught.plane
        ? 'plane face: click to look straight at it'
        : caught
          ? 'curved face'
          : '',
  );

  function typed() {
    const degrees = Number(angle.replace(',', '.').replace('−', '-'));
    if (Number.isFinite(degrees) && angle.trim()) turn(rolled(look, degrees));
    angle = '';
  }

  function keys(e: KeyboardEvent) {
    const step = Math.PI / 12;
    const turns: { [key: string]: [number, number] } = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    if (e.key in turns && e.shiftKey) stage?.pan(turns[e.key][0] * 100, turns[e.key][1] * 100);
    else if (e.key in turns) turn(orbited(look, ...turns[e.key]));
    else if (e.key === '+' || e.key === '=') stage?.zoom(1.25);
    else if (e.key === '-') stage?.zoom(0.8);
    else if (e.key === '0') stage?.fit();
    else return;
    e.preventDefault();
    e.stopPropagation();
  }

  function toggle(k: number) {
    const next = new Set(left);
    if (!next.delete(k)) next.add(k);
    left = next;
    stage?.show(next);
  }

  function keep() {
    if (!name.trim()) return;
    onkeep?.(name.trim(), look);
    name = '';
  }
</script>

<div class="look">
  <div class="tools" role="toolbar" aria-label="Directions">
    {#each STANDARD as [word, each] (word)}
      <button class="quiet small" onclick={() => turn(each, true)}>{word}</button>
    {/each}
    <span class="gap"></span>
    <button class="quiet small" onclick={() => turn(rolled(look, 90))}>Turn by 90°</button>
    <input
      class="field"
      aria-label="Turn by degrees"
      placeholder="or degrees"
      bind:value={angle}
      onkeydown={(e) => e.key === 'Enter' && typed()}
    />
    <button class="quiet small" onclick={() => stage?.fit()}>Show all</button>
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="picture"
    bind:this={host}
    tabindex="0"
    role="application"
    aria-label="The part in space: arrow keys turn it, plus and minus zoom"
    onpointerdown={down}
    onpointermove={move}
    onpointerup={up}
    onpointerleave={() => (stage?.mark(null), (caught = null))}
    onpointercancel={() => (drag = null)}
    oncontextmenu={(e) => e.preventDefault()}
    onwheel={(e) => {
      e.preventDefault();
      stage?.zoom(Math.exp(-e.deltaY * 0.0016), ...place(e));
    }}
    onkeydown={keys}
  >
    <canvas bind:this={canvas} aria-hidden="true"></canvas>
    {#if opening}<p class="said">Fetching the part…</p>{/if}
    {#if trouble}<p class="said bad">{trouble}</p>{/if}
    {#if words}<p class="said hover">{words}</p>{/if}
  </div>
  <div class="foot">
    {#if size}<span>{size.map((s) => length(s)).join(' × ')} mm</span>{/if}
    {#if bodies.length > 1}
      <span class="bodies" role="group" aria-label="Bodies">
        {#each bodies as body, k (k)}
          <label><input type="checkbox" checked={!left.has(k)} onchange={() => toggle(k)} /> {body}</label>
        {/each}
      </span>
    {/if}
    {#if onkeep}
      <span class="kept">
        {#each kept as d (d.name)}
          <span class="one"
            ><button class="quiet small" onclick={() => turn({ toward: d.toward, up: d.up }, true)}
              >{d.name}</button
            ><button class="quiet small" aria-label={`Forget ${d.name}`} onclick={() => onforget?.(d.name)}
              >×</button
            ></span
          >
        {/each}
        <input
          class="field"
          aria-label="Name for this direction"
          placeholder="keep this direction as…"
          bind:value={name}
          onkeydown={(e) => e.key === 'Enter' && keep()}
        />
        <button class="quiet small" disabled={!name.trim()} onclick={keep}>Keep</button>
      </span>
    {/if}
  </div>
</div>

<style>
  .look {
    display: grid;
    grid-template-rows: auto 1fr auto;
    gap: 6px;
    height: 100%;
    width: 100%;
    min-height: 0;
  }
  .tools,
  .foot {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    align-items: center;
    color: var(--ink2);
    font-size: 14.5px;
  }
  .foot {
    gap: 4px 16px;
  }
  .gap {
    width: 10px;
  }
  .tools .field {
    width: 92px;
  }
  .picture {
    position: relative;
    min-height: 0;
    border: 1px solid var(--rule);
    background: var(--sheet);
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    touch-action: none;
    cursor: grab;
  }
  .said {
    position: absolute;
    left: 12px;
    top: 8px;
    pointer-events: none;
    color: var(--pencil);
  }
  .hover {
    color: var(--verd);
    font-weight: 500;
  }
  .bad {
    color: var(--ochre);
    max-width: 60ch;
  }
  .bodies,
  .kept,
  .one {
    display: flex;
    gap: 4px 10px;
    flex-wrap: wrap;
    align-items: center;
  }
  .one {
    gap: 0;
  }
  .bodies label {
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .bodies input {
    accent-color: var(--ink);
  }
  .kept .field {
    width: 170px;
  }
</style>
