<script lang="ts">
  import { viewport } from './viewport.svelte';

  /** An open square on the sheet by which something is taken hold of; what it is stands in its data attributes. */
  let {
    at,
    label,
    hint,
    small = false,
    round = false,
    ...data
  }: {
    at: [number, number];
    label: string;
    hint: string;
    small?: boolean;
    round?: boolean;
    [data: `data-${string}`]: unknown;
  } = $props();
  let half = $derived(small ? 5 : 7);
  let spot = $derived(viewport.window(...at));
</script>

<button
  class:small
  class:round
  aria-label={label}
  title={hint}
  style={`left:${spot[0] - half}px;top:${spot[1] - half}px`}
  {...data}
></button>

<style>
  button {
    position: absolute;
    width: 14px;
    height: 14px;
    border: 2px solid var(--verd);
    background: color-mix(in srgb, var(--sheet) 60%, transparent);
    cursor: move;
    touch-action: none;
  }
  .small {
    width: 10px;
    height: 10px;
    border-width: 1.5px;
  }
  .round {
    border-radius: 50%;
  }
  button:hover {
    border-color: var(--madder);
  }
</style>
