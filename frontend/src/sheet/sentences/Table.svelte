<script lang="ts">
  import { work } from '../work.svelte';
  import Choice from './Choice.svelte';

  /** A table in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'table' ? a : undefined;
  });
  let editable = $derived(!!own && (!own.follows || own.follows === 'parts'));
  const FOLLOWS: { [k: string]: string } = {
    holes: 'of the holes of its view',
    parts: 'of the parts',
    revisions: 'of the revisions',
    tolerances: 'of the general tolerances',
  };
  let stands = $derived(
    own?.tied === 'frame'
      ? `in the frame’s ${own.corner} corner`
      : own?.tied === 'title block'
        ? 'on the title block'
        : 'where it was put',
  );
  const CORNERS = ['top left', 'top right', 'bottom left', 'bottom right'] as const;

  function place(v: string) {
    const corner = CORNERS.find((c) => c === v);
    if (corner) void work.setAnnotations([id], { tied: 'frame', corner });
    else if (v === 'title') void work.setAnnotations([id], { tied: 'title block', corner: 'bottom right' });
    else void work.setAnnotations([id], { tied: '' });
  }
  function most(v: string) {
    const n = Number(v.replace(/[^0-9]/g, ''));
    void work.setAnnotations([id], { most: n > 0 ? n : null });
  }
</script>

{#if own}
  <span>
    Table
    <Choice
      value={own.heading || 'without a heading'}
      label="Heading"
      typed
      text={own.heading ?? ''}
      options={[['', 'no heading']]}
      onset={(v: string) => work.setAnnotations([id], { heading: v })}
      after=""
    />
    {own.follows ? FOLLOWS[own.follows] : `of ${own.rows?.length ?? 0} rows`}{#if editable},
      <button class="part" onclick={() => (work.table = id)}>edit its cells</button>{/if};
    <Choice
      value={stands}
      label="Where it stands"
      options={[
        ['free', 'where it was put'],
        ...CORNERS.map((c): [string, string] => [c, `in the frame’s ${c} corner`]),
        ['title', 'on the title block'],
      ]}
      onset={place}
      after=","
    />
    <Choice
      value={own.titles === 'bottom' ? 'titles at the foot, growing up' : 'titles at the head'}
      label="Where its titles are"
      options={[
        ['top', 'titles at the head'],
        ['bottom', 'titles at the foot, growing up'],
      ]}
      onset={(v: string) => work.setAnnotations([id], { titles: v === 'bottom' ? 'bottom' : 'top' })}
      after=","
    />
    <Choice
      value={own.most ? `going on beside after ${own.most} rows` : 'in one piece'}
      label="After how many rows it goes on beside itself"
      typed
      options={[['', 'in one piece']]}
      onset={most}
      after="."
    />
  </span>
{/if}
