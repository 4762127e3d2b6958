<script lang="ts">
  import { tick, untrack } from 'svelte';
  import { viewport } from './viewport.svelte';
  import { work } from '../work.svelte';

  /** Typing straight into a cell of the title block. */
  let field = $derived(work.ink?.fields.find((f) => f.field === work.field));
  /** What is offered while it is typed. */
  let offeredHere = $derived([
    ...new Set(field?.choices.length ? field.choices : field?.field === 'material' ? work.materials : []),
  ]);
  let input = $state<HTMLInputElement>();

  let name = $derived(field?.field);
  // only as a field is opened: what is typed stays where the sheet is drawn anew meanwhile
  $effect(() => {
    if (name && input) {
      input.value = untrack(() => field?.value ?? '');
      void tick().then(() => {
        input?.focus();
        input?.select();
      });
    }
  });

  /** What is typed for a material is chosen for the part. */
  function set(name: string, value: string | null) {
    if (name === 'material' && value !== null)
      return work.act({ act: 'state_material', sheet: work.sheetId, text: value });
    return work.operation({ op: 'set_field', field: name, value });
  }

  async function byItself() {
    if (!field) return;
    const name = field.field;
    work.field = null;
    await set(name, null);
  }

  async function keep(go: number) {
    if (!field || !input) return;
    const name = field.field;
    const value = input.value.trim();
    const fields = (work.ink?.fields ?? []).filter((f) => !f.auto).sort((a, b) => a.y - b.y || a.x - b.x);
    const next = go
      ? fields[(fields.findIndex((f) => f.field === name) + go + fields.length) % fields.length].field
      : null;
    if (value !== field.value) await set(name, value);
    // a hand may have gone on to another field meanwhile
    if (work.field === name) work.field = next;
  }

  /** Typing ends where a hand presses elsewhere; losing the focus by itself, as to another window, ends nothing. */
  function pressed(e: PointerEvent) {
    if (e.target !== input && !(e.target as Element).closest?.('.itself') && work.field === field?.field)
      void keep(0);
  }

  function keys(e: KeyboardEvent) {
    e.stopPropagation();
    if (e.key === 'Enter') void keep(0);
    else if (e.key === 'Escape') work.field = null;
    else if (e.key === 'Tab') {
      e.preventDefault();
      void keep(e.shiftKey ? -1 : 1);
    }
  }
</script>

<svelte:window onpointerdowncapture={pressed} />

{#if field}
  <input
    class="over"
    bind:this={input}
    aria-label={field.label}
    placeholder={field.label}
    maxlength="300"
    style={`${viewport.style(field.x, field.y, field.width, field.height)};min-width:150px;min-height:26px;font-size:${Math.max(15, 4.6 * viewport.k)}px`}
    list={offeredHere.length ? 'field-choices' : undefined}
    onkeydown={keys}
  />
  {#if offeredHere.length}
    <datalist id="field-choices">
      {#each offeredHere as m (m)}<option value={m}></option>{/each}
    </datalist>
  {/if}
  {#if field.told}
    {@const [x, y] = viewport.window(field.x, field.y + field.height)}
    <button class="itself" style={`left:${x}px;top:${y + 2}px`} onclick={byItself}>Let it fill itself</button>
  {/if}
{/if}

<style>
  .itself {
    position: absolute;
    z-index: 4;
    padding: 1px 8px 2px;
  }
  input {
    position: absolute;
    z-index: 4;
    background: var(--sheet);
    color: var(--pen);
    border: 2px solid var(--sheet-madder);
    padding: 0 5px;
    font-family: osifont, osifont-wide, osifont-chinese;
    max-width: 60%;
  }
</style>
