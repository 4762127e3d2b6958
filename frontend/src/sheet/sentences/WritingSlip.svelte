<script lang="ts">
  import { capital } from '../../lib/format';
  import { tick } from 'svelte';
  import { api, type FrameJson } from '../../api/client';
  import { interaction } from '../interaction.svelte';
  import Choice from './Choice.svelte';
  import { RA } from '../kinds/surface_texture.kind';
  import { work } from '../work.svelte';

  /** What is written for a sign while it is set, in place of the sentence: what was understood is read back in it. */
  let written = $derived(
    interaction.doing.kind === 'making' ? (interaction.doing.making.written?.() ?? null) : null,
  );
  let there = $derived(!!written);
  let sign = $derived(written?.sign);
  let lined = $derived(sign === 'note' || sign === 'notes' || sign === 'table');
  let input = $state<HTMLInputElement | HTMLTextAreaElement>();
  let found = $state.raw<FrameJson>();
  let swapped: [string, string] | null = null;

  const LABELS = {
    frame: 'Tolerance',
    datum: 'Letter',
    texture: 'Texture',
    note: 'Note',
    notes: 'Notes',
    edge_sign: 'Edge',
    weld: 'Weld',
    centre_hole: 'Centre hole',
    knurl: 'Knurl',
    datum_target: 'Datum target',
    treated_stretch: 'Stretch',
    table: 'Table',
  };
  const HINTS = {
    frame: 'position Ø0.1 M A B',
    datum: 'the next free letter',
    texture: 'Ra 1.6',
    note: 'what is to be said',
    notes: 'a line for each note; it is numbered by itself',
    edge_sign: '−0.3, or −0.2 −0.5 all round',
    weld: 'a5 fillet; other z4 fillet 3x50(30); all round, on site, tail 111',
    centre_hole: 'A 4/8.5, or B 2.5/8 may stay',
    knurl: 'RGE 0.8',
    datum_target: 'A1, A2 Ø6, A3 line, or A4 5x10 movable',
    treated_stretch: 'hardened 58+4 HRC, depth 1.6',
    table: 'Module: 2',
  };
  const SAMPLES: { [sign: string]: readonly string[] } = {
    texture: [...RA, 'not removed Rz 100'],
    edge_sign: ['−0.3', '−0.2 −0.5', '+0.5', '±0.05'],
    weld: ['a5 fillet', 'a5 fillet both sides', 's6 V', '5 spot', 'z6 fillet all round'],
    centre_hole: ['A 4/8.5', 'B 2.5/8', 'R 3.15/6.7', 'A 4/8.5 must not stay'],
    knurl: ['RGE 0.8', 'RAA 1', 'RKE 1.2'],
  };
  /** Signs by their plain names, as they are typed in notes. */
  const NAMES: { [name: string]: string } = {
    dia: 'Ø',
    deg: '°',
    depth: '↧',
    pm: '±',
    times: '×',
    cbore: '⌴',
    csink: '⌵',
    sq: '□',
  };
  const STRIP = ['Ø', '°', '±', '×', '↧', '⌴', '⌵', '□', '{Ø}', '{depth}', '{count}', '{thread}', '{bend}'];

  $effect(() => {
    if (!there) return;
    void tick().then(() => {
      input?.focus();
      input?.select();
    });
  });

  $effect(() => {
    const act = written?.frame;
    if (!act) {
      found = undefined;
      return;
    }
    let live = true;
    api.frames(work.id, act).then(
      (f) => {
        if (!live) return;
        found = f;
        // where nothing is written yet, it begins with what is likely there
        if (!act.text) written?.set(f.text);
        if (!act.text) void tick().then(() => input?.select());
      },
      () => live && (found = undefined),
    );
    return () => (live = false);
  });

  function typed(e: Event & { currentTarget: HTMLInputElement | HTMLTextAreaElement }) {
    const field = e.currentTarget;
    const end = field.selectionStart ?? field.value.length;
    const word = lined ? /(^|[\s(])([a-z]+) $/.exec(field.value.slice(0, end)) : null;
    const instead = word && NAMES[word[2]];
    swapped = null;
    if (word && instead) {
      const before = field.value.slice(0, end - word[2].length - 1);
      swapped = [before + instead, `${before}${word[2]} `];
      field.value = before + instead + field.value.slice(end);
      field.setSelectionRange((before + instead).length, (before + instead).length);
    }
    written?.set(field.value);
  }

  function put(piece: string) {
    if (!input) return;
    const from = input.selectionStart ?? input.value.length;
    const value = input.value.slice(0, from) + piece + input.value.slice(input.selectionEnd ?? from);
    written?.set(value);
    void tick().then(() => {
      input?.focus();
      input?.setSelectionRange(from + piece.length, from + piece.length);
    });
  }

  function keys(e: KeyboardEvent) {
    e.stopPropagation();
    if (e.key === 'Escape') interaction.stop();
    else if (e.key === 'Enter' && (sign === 'notes' || sign === 'table' ? e.ctrlKey : !e.shiftKey)) {
      e.preventDefault();
      void interaction.finish();
    } else if (e.key === 'Backspace' && swapped && input?.value.startsWith(swapped[0])) {
      // the word that was typed, in place of its sign
      e.preventDefault();
      written?.set(swapped[1] + input.value.slice(swapped[0].length));
      swapped = null;
    } else if (e.altKey && e.key.startsWith('Arrow')) {
      e.preventDefault();
      const step = e.shiftKey ? 10 : 2;
      const [dx, dy] = (
        { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] } as const
      )[e.key as 'ArrowLeft'];
      interaction.pointer = [interaction.pointer[0] + dx * step, interaction.pointer[1] + dy * step];
      interaction.follow();
    }
  }
</script>

{#if written}
  <section class="writing" aria-label="What it says">
    <label>
      <small>{LABELS[written.sign]}</small>
      {#if lined}
        <textarea
          bind:this={input}
          rows={written.sign === 'note' ? 3 : 6}
          maxlength={written.sign === 'note' ? 2000 : 20000}
          value={written.text}
          placeholder={HINTS[written.sign]}
          oninput={typed}
          onkeydown={keys}></textarea>
      {:else}
        <input
          bind:this={input}
          maxlength="600"
          value={written.text}
          placeholder={HINTS[written.sign]}
          oninput={typed}
          onkeydown={keys}
        />
      {/if}
    </label>
    {#if lined}
      <div class="strip">
        {#each STRIP as piece (piece)}<button onclick={() => put(piece)}>{piece}</button>{/each}
      </div>
      <small
        >{written.sign === 'table'
          ? 'A heading, then a line for each value. Ctrl Enter sets it down.'
          : written.sign === 'notes'
            ? 'A line for each note. Ctrl Enter sets the block down; flags follow their notes.'
            : 'Point at a size to put its figure in; Shift Enter for a new line.'}</small
      >
    {:else if SAMPLES[written.sign]}
      <div class="strip">
        {#each SAMPLES[written.sign] as text (text)}<button onclick={() => written?.set(text)}>{text}</button
          >{/each}
      </div>
    {:else if found?.rows.length}
      <div class="cells">
        {#each found.rows as row, k (k)}
          {#each row as cell (cell.name)}
            <Choice
              value={cell.says}
              label={k ? `Row ${k + 1}: ${cell.name}` : capital(cell.name)}
              options={cell.options}
              onset={(text: string) => written?.set(text)}
            />
          {/each}
        {/each}
      </div>
      <small>{found.words}; for the {found.about}.</small>
      {#if found.explained && !found.fault}<small class="plain">{found.explained}</small>{/if}
      {#each found.remarks as r (r)}<small class="flag">{r}.</small>{/each}
    {/if}
    {#if found?.fault}<small class="flag">{found.fault}</small>
    {:else if !interaction.preview.length && interaction.words}<small class="flag">{interaction.words}</small
      >{/if}
    <small class="keys"
      ><kbd>Enter</kbd> or a click sets it down, <kbd>Alt</kbd> arrows move it, <kbd>Esc</kbd> leaves</small
    >
  </section>
{/if}

<style>
  .writing {
    flex: 1;
    display: grid;
    grid-template-columns: minmax(360px, 2fr) 3fr;
    gap: 3px 22px;
    align-items: baseline;
    padding: 5px 0;
    font-size: 15px;
  }
  .writing > :global(*) {
    min-width: 0;
  }
  .plain,
  .flag {
    grid-column: 1/3;
  }
  label {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 10px;
    align-items: baseline;
  }
  input,
  textarea {
    background: var(--field);
    border: 0;
    border-bottom: 1px solid var(--ink2);
    color: var(--ink);
    font-family: osifont, osifont-wide, osifont-chinese;
    font-size: 17px;
    padding: 2px 4px;
    width: 100%;
    resize: vertical;
  }
  input:focus,
  textarea:focus {
    outline: none;
    border-bottom-color: var(--verd);
  }
  .cells {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
  }
  .strip {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 4px;
  }
  .strip button {
    border: 1px solid var(--rule);
    border-radius: 3px;
    padding: 0 7px;
    font-family: osifont, osifont-wide, osifont-chinese;
  }
  .strip button:hover {
    border-color: var(--verd);
    color: var(--verd);
  }
  small {
    color: var(--ink2);
    font-size: 14px;
  }
  .plain {
    color: var(--ink);
  }
  .flag {
    color: var(--ochre);
  }
</style>
