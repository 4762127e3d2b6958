<script lang="ts">
  import { Rotate3d, RotateCcw } from '@lucide/svelte';
  import type { Direction, FacePreview } from '../api/client';
  import { notices } from '../lib/notices.svelte';
  import { facingPlane, STANDARD, type Look, type Vector } from '../look/turning';
  import Facing from './Facing.svelte';

  /** Which way a part faces in its front view: one of its six faces, a direction of its own, or one kept with the part. */
  let {
    faces,
    faceless,
    again,
    directions,
    face = $bindable(),
    turns = $bindable(),
    own = $bindable(),
    inSpace = $bindable(),
  }: {
    faces: FacePreview[];
    /** Why they are not there, and what asks for them again. */
    faceless: string;
    again: () => void;
    directions: Direction[];
    face: FacePreview['face'];
    turns: number;
    own: Look | null;
    inSpace: boolean;
  } = $props();

  /** A direction that is typed: up is as near to the part's own as it can be. */
  function typedDirection(text: string) {
    const figures = text
      .replace(/−/g, '-')
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    if (figures.length !== 3 || !figures.every(Number.isFinite) || !Math.hypot(...figures)) {
      notices.say('That is not a direction', 'Give three figures, such as 1, -1, 0.', true);
      return;
    }
    own = facingPlane(STANDARD[0][1], figures as Vector);
    turns = 0;
  }
</script>

<section>
  <h2>Which face is the front</h2>
  <div class="faces" role="radiogroup" aria-label="Front face">
    {#each faces as f (f.face)}
      <Facing
        preview={f}
        turns={!own && face === f.face ? turns : 0}
        chosen={!own && face === f.face}
        onchoose={() => ((face = f.face), (turns = 0), (own = null))}
      />
    {:else}
      {#if faceless}
        <span class="dim" role="alert"
          >{faceless} <button class="quiet" onclick={again}>Draw them again</button></span
        >
      {:else}
        <span class="dim">Drawing the six faces…</span>
      {/if}
    {/each}
  </div>
  <button class="quiet" onclick={() => (turns = (turns + 1) % 4)}
    ><RotateCcw size={15} aria-hidden="true" /> Turn by 90°</button
  >
  <button class="quiet" onclick={() => (inSpace = !inSpace)}
    ><Rotate3d size={15} aria-hidden="true" />
    {inSpace ? 'Back to the sheet' : 'Look at it in space'}</button
  >
  {#if own}<span class="dim"
      >from ({own.toward.map((x) => Number(x.toFixed(3))).join(', ')}), as it was turned in space</span
    >{/if}
  {#each directions as d (d.name)}
    <button class="quiet" onclick={() => ((own = { toward: d.toward, up: d.up }), (turns = 0))}
      >{d.name}</button
    >
  {/each}
  <label class="typed"
    >Or a direction of its own
    <input
      class="field"
      placeholder="toward the viewer, such as 1, -1, 0"
      onchange={(e) => typedDirection(e.currentTarget.value)}
    />
  </label>
  {#if turns}<span class="dim">turned {turns * 90}°</span>{/if}
</section>

<style>
  .dim {
    color: var(--ink2);
    font-size: 14.5px;
  }
  .faces {
    display: grid;
    grid-template-columns: repeat(3, 1fr);
    gap: 6px;
    margin-bottom: 6px;
  }
  .typed {
    display: grid;
    color: var(--ink2);
    font-size: 14px;
    margin-top: 6px;
  }
  h2 {
    font-weight: 500;
    font-size: 16px;
    margin: 14px 0 7px;
  }
</style>
