<script lang="ts">
  import type { ViewJson } from '../api/client';
  import Handle from './Handle.svelte';
  import { work } from './work.svelte';

  /** Handles of a selected view: corners of its cutting line, its outline, its break lines, its local cuts. */
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
