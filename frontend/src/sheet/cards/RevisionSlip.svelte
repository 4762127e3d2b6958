<script lang="ts">
  import { onMount } from 'svelte';
  import { api, type PartInfo } from '../../api/client';
  import { sizeWords } from '../../lib/format';
  import { notices } from '../../lib/notices.svelte';
  import Slip from '../../lib/Slip.svelte';
  import { PART_FILES } from '../../shelf/called';
  import { bringing } from '../../shelf/bringing.svelte';
  import { interaction } from '../interaction.svelte';
  import { work } from '../work.svelte';

  /** Another revision of the part that the drawing shows, from the shelf or out of a file; what goes along is told first. */
  let parts = $state<PartInfo[]>([]);
  let chosen = $state('');
  let words = $state('');
  let choices = $state<string[]>([]);
  let whole = $state<'moved' | 'stayed' | null>(null);
  let changes = $state.raw<string[]>([]);
  let chooser = $state<HTMLInputElement>();
  const part = work.revising;
  let now = $derived(parts.find((p) => p.key === part));
  let newest = $derived(work.state?.newer?.find((n) => n.part === part)?.by ?? '');
  let name = $derived(work.state?.document.parts?.find((p) => p.key === part)?.name ?? '');
  const act = (by: string, seen = false) => ({
    act: 'take_revision' as const,
    part,
    by,
    whole,
    ...(seen ? { sheet: work.sheetId } : {}),
  });
  const likeness = (p: PartInfo) =>
    p.key === newest || p.former === part
      ? 0
      : p.name === name || (!!now?.number && p.number === now.number)
        ? 1
        : 2;
  let others = $derived(parts.filter((p) => p.key !== part).sort((a, b) => likeness(a) - likeness(b)));

  onMount(() => {
    void load().then(() => (newest ? choose(newest) : undefined));
    return () => (interaction.preview = []);
  });

  async function load() {
    try {
      parts = await api.parts();
    } catch (error) {
      notices.refuse(error);
    }
  }

  async function choose(key: string, taken: typeof whole = null) {
    [chosen, whole, words, changes] = [key, taken, '', []];
    interaction.preview = [];
    try {
      const shown = await api.preview(work.id, act(key, true));
      if (chosen !== key || whole !== taken) return;
      [words, choices, changes] = [shown.words, shown.others ?? [], shown.changes ?? []];
      interaction.preview = shown.elements;
    } catch (error) {
      chosen = '';
      notices.refuse(error);
    }
  }

  async function take() {
    const [key, told] = [chosen, words];
    close();
    if (await work.act(act(key))) notices.say('The revision is taken', told);
  }

  function close() {
    work.revising = '';
  }
</script>

<Slip title="Take another revision of the part" open aside onclose={close}>
  <p>
    Views, cuts, sizes and marks go along with {name || 'the part'}. What hangs on something that is gone
    stays, and says so.
  </p>
  <div class="list" class:short={!!chosen}>
    {#each others as p (p.key)}
      <button class:now={chosen === p.key} aria-pressed={chosen === p.key} onclick={() => choose(p.key)}>
        <span
          >{p.name}{p.number && p.number !== p.name ? `, ${p.number}` : ''}{p.key === newest
            ? ', the newest revision'
            : ''}</span
        >
        <small>{p.file_name}, {sizeWords(p.summary.size)}</small>
      </button>
    {:else}
      <small>There is no other part on the shelf.</small>
    {/each}
  </div>
  {#each bringing.jobs as job (job.id)}
    <p><small>Reading {job.name} …</small></p>
  {/each}
  <p class="told" aria-live="polite">
    {chosen ? words || 'Comparing the two …' : 'Choose one to see what of the drawing goes along.'}
  </p>
  {#if chosen && choices.length}
    <div class="foot" role="radiogroup" aria-label="Where the whole part stands in its new file">
      {#each [['', 'What is certain'], ['moved', 'It was put elsewhere'], ['stayed', 'It stayed']] as [own, name] (own)}
        <button
          role="radio"
          aria-checked={(whole ?? '') === own}
          onclick={() => choose(chosen, (own || null) as typeof whole)}>{name}</button
        >
      {/each}
    </div>
  {/if}
  {#if changes.length}
    <ul class="changes" aria-label="What would change on the sheets">
      {#each changes as line, k (k)}<li>{line}</li>{/each}
    </ul>
  {/if}
  <div class="foot">
    <button class="go" disabled={!words} onclick={take}>Take it</button>
    <button onclick={() => chooser?.click()}>Bring a file</button>
    {#if chosen}<a href={`#/look/${chosen}/since/${part}`}>Both in space</a>{/if}
    <button onclick={close}>Leave it</button>
    <input
      bind:this={chooser}
      type="file"
      accept={PART_FILES}
      hidden
      data-testid="revision-file"
      onchange={(e) => {
        void bringing.bring(e.currentTarget.files ?? [], async (key) => {
          await load();
          await choose(key);
        });
        e.currentTarget.value = '';
      }}
    />
  </div>
</Slip>

<style>
  p {
    max-width: 380px;
    margin: 4px 0 8px;
  }
  .list {
    display: grid;
    width: 380px;
    overflow-wrap: anywhere;
    max-height: 260px;
    overflow: auto;
    border-top: 1px solid var(--rule);
  }
  .list.short {
    max-height: 98px;
  }
  .list button {
    display: grid;
    text-align: left;
    padding: 5px 6px;
    border-bottom: 1px dotted var(--rule);
  }
  .list button:hover span,
  .list .now span {
    color: var(--verd);
  }
  .list .now {
    background: var(--field);
  }
  small {
    color: var(--ink2);
  }
  [role='radio'] {
    border-bottom: 2px solid transparent;
  }
  [role='radio'][aria-checked='true'] {
    border-color: var(--verd);
    color: var(--verd);
  }
  .told {
    min-height: 3em;
  }
  .changes {
    width: 380px;
    max-height: 220px;
    overflow: auto;
    margin: 0 0 10px;
    padding-left: 1.1em;
    list-style: square;
    color: var(--ink2);
  }
  .foot a {
    text-decoration: underline;
  }
  .foot {
    display: flex;
    gap: 16px;
    align-items: center;
  }
</style>
