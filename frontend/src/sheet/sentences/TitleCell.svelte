<script lang="ts">
  import offered from '../../api/offered.json';
  import { titling } from '../titling.svelte';
  import Choice from './Choice.svelte';

  /** What a cell of the title block shows, or how the border is, while they are changed. */
  const FIELDS = Object.entries(offered.fields) as [string, string][];
  const COMPUTED = Object.entries(offered.computed) as [string, string][];
  let cell = $derived(titling.one);
  let file = $state<HTMLInputElement>();
  let template = $derived(titling.template);
  let zones = $derived(template.zones);
  const nameOf = (field: string) =>
    (offered.fields as Record<string, string>)[field] ?? field.replaceAll('_', ' ');
  const change = (changes: Extract<Parameters<typeof titling.do>[0], { act: 'change_cell' }>['changes']) =>
    cell && titling.do({ act: 'change_cell', cell: cell.id, changes });
  const border = (
    changes: Omit<Extract<Parameters<typeof titling.do>[0], { act: 'change_border' }>, 'act'>,
  ) => titling.do({ act: 'change_border', ...changes });
  const millimetres = (v: string) => Number(v.replace(',', '.').replace(/[^0-9.]/g, ''));
  const SIDES = ['left', 'right', 'top', 'bottom'] as const;
  function margins(v: string) {
    const all = v
      .split(/[;, ]+/)
      .filter(Boolean)
      .map(Number);
    if (all.length && all.every((n) => n > 0))
      void border({
        margins: Object.fromEntries(SIDES.map((s, k) => [s, all[Math.min(k, all.length - 1)]])),
      });
  }
  const ORDERS = {
    'rightward downward': 'from the left and the top',
    'leftward upward': 'from the right and the bottom',
    'rightward upward': 'from the left and the bottom',
    'leftward downward': 'from the right and the top',
  };
</script>

<span>
  {#if cell}
    The cell <Choice
      value={cell.label || 'without a label'}
      text={cell.label ?? ''}
      label="Label of the cell"
      typed
      onset={(v: string) => change({ label: v.trim() })}
    />
    {#if cell.shows === 'picture'}shows a picture;{:else}shows <Choice
        value={cell.shows === 'projection' ? 'Projection' : cell.field ? nameOf(cell.field) : 'its text'}
        text=""
        label="The field that it shows, or one of your own, such as Checked by"
        typed
        options={[['nothing', 'its text'], ...FIELDS.map(([, l]): [string, string] => [l, l])]}
        onset={(v: string) => change({ shows: v })}
        after=","
      />
      {#if cell.shows !== 'projection'}
        {cell.field ? 'by itself' : 'says'}
        <Choice
          value={cell.text || (cell.field ? 'what is usual' : 'nothing')}
          text={cell.text ?? ''}
          label="What it says where nobody filled it in; {'{mass}'} and the like are put in"
          typed
          options={COMPUTED.map(([n, w]): [string, string] => [`{${n}}`, `{${n}}  ${w}`])}
          onset={(v: string) => change({ text: v })}
          after=","
        />
        lettering <Choice
          value={`${cell.lettering} mm`}
          label="Height of its lettering"
          typed
          options={['2.5', '3.5', '5', '7'].map((n): [string, string] => [n, `${n} mm`])}
          onset={(v: string) => change({ lettering: millimetres(v) })}
          after=","
        />
        <Choice
          value={cell.align ?? 'left'}
          label="Where in the cell"
          options={[
            ['left', 'left'],
            ['middle', 'middle'],
            ['right', 'right'],
          ] as const}
          onset={(v) => change({ align: v })}
          after=";"
        />
        {#if cell.field}
          <Choice
            value={cell.needed ? 'has to be filled in' : 'may be empty'}
            label="Before a sheet is issued"
            options={[
              ['yes', 'has to be filled in'],
              ['no', 'may be empty'],
            ] as const}
            onset={(v) => change({ needed: v === 'yes' })}
            after=","
          />
          offers <Choice
            value={cell.choices?.length ? cell.choices.join('; ') : 'no list'}
            text={(cell.choices ?? []).join('; ')}
            label="A list to choose from, parted by semicolons"
            typed
            onset={(v: string) =>
              change({
                choices: v
                  .split(';')
                  .map((c) => c.trim())
                  .filter(Boolean),
              })}
            after=";"
          />
        {/if}
      {/if}{/if}
    <Choice
      value={`${cell.width}`}
      label="Width of the cell, mm"
      typed
      onset={(v: string) => titling.resize(cell!, 'width', millimetres(v))}
    /> wide, <Choice
      value={`${cell.height}`}
      label="Height of the cell, mm"
      typed
      onset={(v: string) => titling.resize(cell!, 'height', millimetres(v))}
    /> high.
    <button class="part" onclick={() => titling.do({ act: 'split_cell', cell: cell!.id, across: true })}
      >Split beside</button
    >
    <button class="part" onclick={() => titling.do({ act: 'split_cell', cell: cell!.id, across: false })}
      >Split below</button
    >
    <button class="part" onclick={() => titling.do({ act: 'remove_cells', cells: [cell!.id] })}>Remove</button
    >
    <button class="part" onclick={() => file?.click()}>Put a picture in</button>
    <input
      bind:this={file}
      type="file"
      aria-label="Picture for the cell"
      accept=".svg,.png,.jpg,.jpeg"
      hidden
      onchange={() => {
        const chosen = file?.files?.[0];
        if (chosen) void titling.picture(chosen);
        if (file) file.value = '';
      }}
    />
  {:else if titling.chosen.length > 1}
    {titling.chosen.length} cells.
    <button class="part" onclick={() => titling.do({ act: 'join_cells', cells: titling.chosen })}
      >Join them</button
    >
    <button class="part" onclick={() => titling.do({ act: 'remove_cells', cells: titling.chosen })}
      >Remove them</button
    >
  {:else}
    Title block <Choice
      value={template.name || 'ISO 7200'}
      text={template.name ?? ''}
      label="Name of the template"
      typed
      onset={(v: string) => border({ name: v.trim() })}
      after=":"
    /> click a cell, Shift for several, drag borders. Border <Choice
      value={SIDES.map((s) => template.margins?.[s] ?? 10).join(', ')}
      label="Margins left, right, top, bottom, mm"
      typed
      onset={margins}
    /> mm,
    <Choice
      value={zones ? `zones of ${zones.field} mm` : 'no zones'}
      text={zones ? `${zones.field}` : ''}
      label="Zones of the border: how wide, mm"
      typed
      options={[
        ['50', 'zones of 50 mm'],
        ['none', 'no zones'],
      ]}
      onset={(v: string) =>
        border({ zones: v === 'none' || !millimetres(v) ? false : { ...zones, field: millimetres(v) } })}
      after=","
    />
    {#if zones}
      counted <Choice
        value={ORDERS[
          `${zones.numbers ?? 'rightward'} ${zones.letters ?? 'downward'}` as keyof typeof ORDERS
        ]}
        label="Where zones begin"
        options={Object.entries(ORDERS) as [keyof typeof ORDERS, string][]}
        onset={(v) => {
          const [numbers, letters] = v.split(' ') as ['rightward', 'downward'];
          void border({ zones: { ...zones, numbers, letters } });
        }}
        after=","
      />
    {/if}
    centring marks <Choice
      value={template.centring === false ? 'off' : 'shown'}
      label="Centring marks"
      options={[
        ['yes', 'shown'],
        ['no', 'off'],
      ] as const}
      onset={(v) => border({ centring: v === 'yes' })}
      after="."
    />
  {/if}
  <button class="part" onclick={() => titling.do({ act: 'add_cell', side: 'top' })}>Add one on top</button>
  <button class="part" onclick={() => titling.do({ act: 'add_cell', side: 'left' })}
    >Add one at the left</button
  >
  <button class="part" onclick={() => titling.end()}>Done</button>
</span>
