<script lang="ts">
  import type { Mark } from '../api/client';

  /** Draws marks of ink as they are: mm, y down. */
  let { marks, colour = '' }: { marks: Mark[]; colour?: string } = $props();

  const pairs = (flat: number[]) => {
    let text = '';
    for (let i = 0; i < flat.length; i += 2) text += `${flat[i]},${flat[i + 1]} `;
    return text;
  };
</script>

{#each marks as mark, i (i)}
  {#if mark.m === 's' || (mark.m === 'u' && colour)}
    <path
      d={mark.d}
      fill="none"
      stroke={colour || '#17232C'}
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
  {:else if mark.m === 'f'}
    <polygon points={pairs(mark.pts ?? [])} fill={colour || '#17232C'} />
  {:else if mark.m === 't'}
    <text
      x={mark.x}
      y={mark.y}
      font-size={mark.size}
      text-anchor={mark.anchor ?? 'start'}
      transform={mark.angle ? `rotate(${mark.angle} ${mark.x} ${mark.y})` : undefined}
      fill={colour || '#17232C'}>{mark.text}</text
    >
  {/if}
{/each}

<style>
  text {
    font-family: osifont;
    white-space: pre;
    user-select: none;
  }
</style>
