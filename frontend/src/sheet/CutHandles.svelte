<script lang="ts">
  import type { ViewJson } from '../api/client';
  import { viewport } from './viewport.svelte';
  import { work } from './work.svelte';

  /** Handles of a selected view: corners of its cutting line, its outline, its break lines. */
  let { view }: { view: ViewJson } = $props();
  let own = $derived(work.view(view.id));
  /** Corners of the outlines of local cuts, on the sheet. */
  let outlines = $derived(
    (own?.local_cuts ?? []).flatMap((cut) =>
      cut.outline.map(([x, y], k) => {
        const [ox, oy] = work.up([own!.place[0], own!.place[1]]);
        return { id: cut.id, k, at: [ox + x * view.scale, oy - y * view.scale] as [number, number] };
      }),
    ),
  );
</script>

{#each view.section?.corners ?? [] as [x, y], k (k)}
  {@const [px, py] = viewport.window(x, y)}
  <button
    data-corner={k}
    aria-label={`Corner ${k + 1} of the cutting line`}
    title="Drag the corner; drop it on a feature to tie it there"
    style={`left:${px - 7}px;top:${py - 7}px`}
  ></button>
{/each}

{#if view.outline}
  {#each [['place', view.outline.centre], ['size', view.outline.notch]] as [what, at] (what)}
    {@const [px, py] = viewport.window(...(at as [number, number]))}
    <button
      class:small={what === 'size'}
      data-ring={what}
      aria-label={what === 'size' ? 'Size of the outline' : 'Middle of the outline'}
      title={what === 'size'
        ? 'Drag it wider or narrower'
        : 'Drag the outline; drop it on a feature to tie it there'}
      style={`left:${px - (what === 'size' ? 5 : 7)}px;top:${py - (what === 'size' ? 5 : 7)}px`}
    ></button>
  {/each}
{/if}

{#each view.breaks as b (b.id)}
  {#each ['first', 'second'] as const as which (which)}
    {@const [px, py] = viewport.window(...b[which])}
    <button
      class="small"
      data-break={b.id}
      data-at={which}
      aria-label={`${which === 'first' ? 'First' : 'Second'} break line`}
      title="Drag the break line along"
      style={`left:${px - 5}px;top:${py - 5}px`}
    ></button>
  {/each}
{/each}

{#each outlines as o (`${o.id} ${o.k}`)}
  {@const [px, py] = viewport.window(...o.at)}
  <button
    class="small"
    data-outline={o.id}
    data-at={o.k}
    aria-label={`Corner ${o.k + 1} of the local cut`}
    title="Drag the outline"
    style={`left:${px - 5}px;top:${py - 5}px`}
  ></button>
{/each}

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
    border-radius: 50%;
  }
  button:hover {
    border-color: var(--madder);
  }
</style>
