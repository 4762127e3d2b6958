<script lang="ts">
  import { guide } from '../guide.svelte';
  import { viewport } from './viewport.svelte';

  /** Rings where the gesture of a guided step happens, with the way to pull. */
</script>

{#each guide.marks as m, i (i)}
  {@const [x, y] = viewport.window(m.x, m.y)}
  <svg
    viewBox="-60 -60 120 120"
    width="120"
    height="120"
    style={`left:${x - 60}px;top:${y - 60}px`}
    aria-hidden="true"
    data-testid="guide-mark"
  >
    <circle r="11" />
    {#if m.words}<text y="5">{m.words}</text>{/if}
    {#if m.pull}
      {@const [px, py] = m.pull}
      <g transform={`rotate(${(Math.atan2(py, px) * 180) / Math.PI})`}>
        <path d="M14 0 H50 M42 -6 L50 0 L42 6" />
      </g>
    {/if}
  </svg>
{/each}

<style>
  svg {
    position: absolute;
    pointer-events: none;
    fill: none;
    stroke: var(--verd);
    stroke-width: 2;
  }
  text {
    fill: var(--verd);
    stroke: none;
    text-anchor: middle;
    font-size: 15px;
    font-weight: 700;
  }
  circle,
  path {
    animation: beckon 1.6s ease-in-out infinite alternate;
  }
  @keyframes beckon {
    from {
      opacity: 0.35;
    }
  }
  @media (prefers-reduced-motion: reduce) {
    circle,
    path {
      animation: none;
    }
  }
</style>
