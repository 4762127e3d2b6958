<script lang="ts">
  import type { FacePreview } from '../api/client';

  /** A face of the part as it really looks, to be chosen as the front. */
  let {
    preview,
    turns,
    chosen,
    onchoose,
  }: { preview: FacePreview; turns: number; chosen: boolean; onchoose: () => void } = $props();
  const names: Record<string, string> = {
    '-Y': '−Y',
    '+Y': '+Y',
    '+Z': '+Z',
    '-Z': '−Z',
    '-X': '−X',
    '+X': '+X',
  };
  let room = $derived(Math.max(preview.width, preview.height) * 1.12);
</script>

<button
  role="radio"
  aria-checked={chosen}
  class:chosen
  onclick={onchoose}
  aria-label={`Front from ${names[preview.face]}`}
>
  <svg
    viewBox={`${(preview.width - room) / 2} ${(preview.height - room) / 2} ${room} ${room}`}
    style={`transform: rotate(${-90 * turns}deg)`}
  >
    <path d={preview.visible} />
  </svg>
  <span>{names[preview.face]}</span>
</button>

<style>
  button {
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--sheet);
    color: var(--pencil);
    padding: 5px 5px 2px;
    display: grid;
    justify-items: center;
    font-size: 13px;
  }
  button:hover {
    border-color: var(--verd);
  }
  button.chosen {
    border-color: var(--pen);
    box-shadow: inset 0 0 0 1px var(--pen);
    color: var(--pen);
    font-weight: 500;
  }
  svg {
    width: 74px;
    height: 62px;
    transition: transform 0.15s;
  }
  path {
    fill: none;
    stroke: var(--pen);
    stroke-width: 1;
    vector-effect: non-scaling-stroke;
  }
</style>
