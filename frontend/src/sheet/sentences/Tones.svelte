<script lang="ts">
  import type { View, ViewJson } from '../../api/client';
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** Whether a view is shaded, in tones of ink or in colours of its bodies, and in which. */
  let { view, shown }: { view: View; shown: ViewJson } = $props();
  let now = $derived(!view.shaded ? 'none' : view.coloured ? 'in colours' : 'in grey');

  function tones(v: string) {
    void work.setView(view.id, { shaded: v !== 'none', coloured: v === 'in colours' });
  }
  let open = $state('');
  let body = $derived(shown.bodies.includes(open) ? open : shown.bodies[0]);
  let own = $derived(view.colours?.find((c) => c.body === body)?.colour);
  let others = $derived(view.colours?.filter((c) => c.body !== body) ?? []);
  const give = (colour: string) =>
    work.setView(view.id, { colours: colour ? [...others, { body, colour: colour.toLowerCase() }] : others });
</script>

tones
<Choice
  value={now}
  label="Tones"
  options={[
    ['none', 'none'],
    ['in grey', 'in grey'],
    ['in colours', 'in colours of the bodies; grey where it is issued'],
  ]}
  onset={tones}
  after=","
/>
{#if view.shaded && view.coloured}
  {#if shown.bodies.length > 1}
    <Choice
      value={body}
      label="Body whose colour is told"
      options={shown.bodies.map((b): [string, string] => [b, b])}
      onset={(v) => (open = v)}
    />
  {/if}
  <label class="colour"
    ><input
      type="color"
      aria-label={`Colour of ${body}`}
      value={shown.colours[shown.bodies.indexOf(body)]}
      onchange={(e) => {
        // keys are the sheet's again
        e.currentTarget.blur();
        void give(e.currentTarget.value);
      }}
    /></label
  >{#if own}<button class="back" onclick={() => give('')}>as its file has it</button>{/if},
{/if}

<style>
  .colour input {
    width: 26px;
    height: 18px;
    padding: 0;
    border: 1px solid var(--ink2);
    background: none;
    vertical-align: -3px;
  }
  .back {
    padding: 0;
    border-bottom: 1px dotted var(--ink2);
  }
</style>
