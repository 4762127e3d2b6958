<script lang="ts">
  import type { Mark } from '../api/client';
  import { merged } from './merged';

  /** Draws marks of ink as they are: mm, y down, from the zero of their element. */
  let { marks, colour = '' }: { marks: Mark[]; colour?: string } = $props();
  const familyOf = (font?: string) => (font ? `${font}, osifont, osifont-wide, osifont-chinese` : undefined);
  const ink = $derived(colour || 'var(--pen)');
</script>

{#each merged(marks, colour !== '') as mark, i (i)}
  {#if mark.m === 's'}
    <path
      d={mark.d}
      fill="none"
      stroke={ink}
      stroke-width={mark.w}
      stroke-dasharray={mark.dash?.length ? mark.dash.join(' ') : undefined}
      stroke-linecap={mark.dash?.length ? 'butt' : 'round'}
      stroke-linejoin="round"
    />
  {:else if mark.m === 'i'}
    <image
      href={mark.d}
      x={mark.x}
      y={mark.y}
      width={mark.w}
      height={mark.h}
      preserveAspectRatio="none"
      pointer-events="none"
    />
  {:else if mark.m === 'h'}
    <path d={mark.d} fill="none" stroke={ink} stroke-width={mark.w} pointer-events="none" />
  {:else if mark.m === 'f'}
    <path d={mark.d} fill={ink} fill-rule="evenodd" />
  {:else if mark.m === 't' && mark.runs}
    {#each mark.runs as [letters, along], k (k)}
      <text
        x={mark.x + along}
        y={mark.y}
        font-size={mark.size}
        transform={mark.angle ? `rotate(${mark.angle} ${mark.x} ${mark.y})` : undefined}
        stroke={mark.bold ? ink : undefined}
        stroke-width={mark.bold}
        style:font-family={familyOf(mark.font)}
        fill={ink}>{letters}</text
      >
    {/each}
    <path d={mark.d} fill="none" stroke={ink} stroke-width={mark.w} stroke-linecap="round" />
    {#if mark.fill}<path d={mark.fill} fill={ink} />{/if}
  {:else if mark.m === 't'}
    <text
      x={mark.x}
      y={mark.y}
      font-size={mark.size}
      transform={mark.angle ? `rotate(${mark.angle} ${mark.x} ${mark.y})` : undefined}
      stroke={mark.bold ? ink : undefined}
      stroke-width={mark.bold}
      style:font-family={familyOf(mark.font)}
      fill={ink}>{mark.text}</text
    >
  {/if}
{/each}

<style>
  text {
    font-family: osifont, osifont-wide, osifont-chinese;
    white-space: pre;
    user-select: none;
  }
</style>
