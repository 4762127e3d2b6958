<script lang="ts">
  import { api, type AnnotationChanges } from '../../api/client';
  import Choice from './Choice.svelte';
  import { declare } from '../kinds/hole_note.kind';
  import { work } from '../work.svelte';
  import Plainly from './Plainly.svelte';

  /** A hole's note in one sentence. */
  let { id }: { id: string } = $props();
  let note = $derived.by(() => {
    const found = work.annotation(id);
    return found?.kind === 'hole_note' ? found : undefined;
  });
  let words = $derived(work.elements.get(id)?.words ?? '');
  let explained = $state('');
  $effect(() => {
    void work.ink;
    let live = true;
    api.said(work.id, id).then(
      (found) => live && (explained = found.explained),
      () => live && (explained = ''),
    );
    return () => (live = false);
  });
  const set = (changes: AnnotationChanges) => work.setAnnotations([id], changes);
  const LINES: [NonNullable<NonNullable<typeof note>['leaves_out']>[number], string][] = [
    ['bore', 'its diameter'],
    ['depth', 'its depth'],
    ['counterbore', 'its counterbore'],
    ['countersink', 'its countersink'],
    ['thread', 'its thread'],
  ];
  let out = $derived(note?.leaves_out ?? []);
  let tolerance = $derived(note?.tolerance?.fit || (note?.tolerance?.kind !== 'none' ? 'a tolerance' : ''));
  function leave(line: string) {
    const found = LINES.find(([k]) => k === line)?.[0];
    if (found)
      void set({ leaves_out: out.includes(found) ? out.filter((l) => l !== found) : [...out, found] });
  }
  function setCount(v: string) {
    const n = Number(v.replace(/[^0-9]/g, ''));
    void set({ count: v === 'auto' || !(n > 0) ? null : n });
  }
</script>

{#if note}
  <span>
    Hole note <b>{words}</b>, for
    <Choice
      value={note.count ? `${note.count} holes` : 'all holes made alike'}
      label="How many holes it stands for"
      typed
      options={[
        ['auto', 'all holes made alike'],
        ['1', 'this one'],
      ]}
      onset={setCount}
      after=","
    />
    thread
    <Choice
      value={work.state?.document.threads?.length ? 'as declared' : 'none'}
      label="Thread: M8, M8×1, 1/4-20"
      typed
      options={[
        ['', 'by its diameter'],
        ['none', 'none'],
      ]}
      onset={(v: string) => declare(id, v)}
      after=","
    />
    class
    <Choice
      value={tolerance || 'none'}
      label="Class of the bore, such as H7"
      typed
      options={[
        ['none', 'none'],
        ['H7', 'H7'],
        ['H8', 'H8'],
        ['H11', 'H11'],
      ]}
      onset={(v: string) => work.act({ act: 'state_tolerance', ids: [id], text: v })}
      after=","
    />
    of their places saying
    <Choice
      value={note.spaced ? 'the pitch circle' : 'nothing'}
      label="What is said of their places"
      options={[
        ['', 'nothing'],
        ['ring', 'the pitch circle that they lie on'],
      ]}
      onset={(v: string) => set({ spaced: v === 'ring' })}
      after=","
    />
    leaving out
    <Choice
      value={out.length
        ? LINES.filter(([k]) => out.includes(k))
            .map(([, w]) => w)
            .join(', ')
        : 'nothing'}
      label="What is not said of it"
      options={LINES.map(([k, w]): [string, string] => [
        k,
        out.includes(k) ? `${w}: say it` : `${w}: leave it out`,
      ])}
      onset={leave}
      after="."
    />
    <Plainly words={explained} />
  </span>
{/if}

<style>
  b {
    font-family: osifont, osifont-wide, osifont-chinese;
    font-weight: 400;
  }
</style>
