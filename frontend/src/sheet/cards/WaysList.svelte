<script lang="ts">
  import { api, type Departure, type KeptWays } from '../../api/client';
  import { give } from '../../lib/csv';
  import { notices } from '../../lib/notices.svelte';
  import { work } from '../work.svelte';

  /** The ways of the house: given to the drawing, and what of it departs from them. */
  let kept = $state.raw<KeptWays[]>([]);
  let departs = $state.raw<Departure[]>([]);
  let name = $state('');
  let file = $state<HTMLInputElement>();
  let now = $derived(work.state?.document.ways ?? null);
  let same = $derived(kept.find((k) => k.name === now?.name));
  /** What is kept under that name was changed since the drawing was given it. */
  let stale = $state(false);

  async function load() {
    try {
      kept = await api.keptWays();
    } catch {
      kept = [];
    }
  }
  $effect(() => void load());
  $effect(() => {
    void work.state?.edit;
    const id = work.id;
    void kept;
    if (!now) {
      departs = [];
      stale = false;
    } else
      void api.departures(id).then(
        (found) => {
          if (id !== work.id) return;
          departs = found.departs;
          stale = found.changed;
        },
        () => (departs = []),
      );
  });

  async function said(what: () => Promise<unknown>) {
    try {
      await what();
    } catch (error) {
      notices.refuse(error);
    }
    await load();
  }
  const take = (k: KeptWays) => work.act({ act: 'take_ways', ways: { name: k.name, ways: k.ways } });
  const setBack = (...what: string[]) => work.act({ act: 'set_back', what });
</script>

<small
  >Ways of the house: {now ? now.name : 'none chosen'}{now && !departs.length
    ? ', nothing departs'
    : ''}</small
>
{#each departs as d (d.what)}
  <button class="flag" title="Set it back to the ways of the house" onclick={() => setBack(d.what)}
    >{d.words}<span>set back</span></button
  >
{/each}
{#if departs.length > 1}<button onclick={() => setBack()}>Set all of it back</button>{/if}
{#if stale && same}<button onclick={() => take(same)}>{same.name} was changed: take it as it is now</button
  >{/if}
{#each kept as k (k.id)}
  <div>
    <button class:now={k.name === now?.name} onclick={() => take(k)}>{k.name}<span>ways</span></button><button
      class="out"
      title="Give it out as a file"
      aria-label={`Give out ${k.name} as a file`}
      onclick={() =>
        said(async () => give(`${k.name}.ways.json`, await api.waysFile(k.id), 'application/json'))}>↓</button
    ><button
      class="out"
      aria-label={`Remove the ways ${k.name} from what is kept`}
      onclick={() => said(() => api.removeWays(k.id))}>×</button
    >
  </div>
{/each}
{#if now}<button onclick={() => work.act({ act: 'take_ways', ways: null })}
    >Leave the ways of the house</button
  >{/if}
<input
  class="name"
  bind:value={name}
  maxlength="100"
  placeholder="Keep its ways as…"
  aria-label="Keep the ways of this drawing under a name"
  onkeydown={(e) => {
    const own = name.trim();
    if (e.key !== 'Enter' || !own) return;
    name = '';
    void said(async () => {
      const made = await api.keepWays(work.id, own);
      notices.say(`Kept as ${own}`, 'New drawings can begin with it, and others take it in step 2.');
      await take(made);
    });
  }}
/>
<button onclick={() => file?.click()}>Take in a file of ways</button>
<input
  bind:this={file}
  type="file"
  hidden
  aria-label="A file of ways"
  accept=".json,application/json"
  onchange={() => {
    const chosen = file?.files?.[0];
    if (chosen)
      void said(async () => {
        const found = await api.bringWays(chosen);
        notices.say(`${found.name} is kept`, 'Choose it in the list to give it to this drawing.');
      });
    if (file) file.value = '';
  }}
/>

<style>
  div {
    display: flex;
    gap: 6px;
  }
  button {
    flex: 1;
    display: flex;
    justify-content: space-between;
    gap: 8px;
    padding: 3.5px 0;
    text-align: left;
    border-bottom: 1px dotted var(--rule);
  }
  button:hover {
    color: var(--verd);
  }
  .now {
    font-weight: 600;
  }
  .flag {
    color: var(--ochre);
  }
  .out {
    flex: 0;
    padding: 3.5px 4px;
  }
  span,
  small {
    color: var(--ink2);
    font-size: 13.5px;
    font-weight: 400;
  }
  small {
    padding-top: 6px;
  }
  .name {
    margin-top: 5px;
    background: var(--field);
    color: var(--ink);
    border: 0;
    border-bottom: 1px solid var(--ink2);
    padding: 2px 4px;
    width: 100%;
  }
</style>
