<script lang="ts">
  import type { ViewJson } from '../../api/client';
  import Handle from './Handle.svelte';

  /** Handles of a selected view: corners of its cutting line, its outline, its break lines, its local cuts. */
  let { view }: { view: ViewJson } = $props();
  let outlines = $derived(
    view.local_cuts.flatMap((cut) => cut.corners.map((at, k) => ({ id: cut.id, k, at }))),
  );
</script>

{#each view.section?.corners ?? [] as at, k (k)}
  <Handle
    {at}
    label={`Corner ${k + 1} of the cutting line`}
    hint="Drag the corner; drop it on a feature to tie it there"
    data-corner={String(k)}
  />
{/each}

{#if view.outline}
  <Handle
    at={view.outline.centre}
    label="Middle of the outline"
    hint="Drag the outline; drop it on a feature to tie it there"
    data-ring="place"
  />
  <Handle
    at={view.outline.notch}
    small
    round
    label="Size of the outline"
    hint="Drag it wider or narrower"
    data-ring="size"
  />
{/if}

{#each view.breaks as b (b.id)}
  {#each ['first', 'second'] as const as which (which)}
    <Handle
      at={b[which]}
      small
      round
      label={`${which === 'first' ? 'First' : 'Second'} break line`}
      hint="Drag the break line along"
      data-break={b.id}
      data-at={which}
    />
  {/each}
{/each}

{#each outlines as o (`${o.id} ${o.k}`)}
  <Handle
    at={o.at}
    small
    round
    label={`Corner ${o.k + 1} of the local cut`}
    hint="Drag the outline"
    data-outline={o.id}
    data-at={String(o.k)}
  />
{/each}
