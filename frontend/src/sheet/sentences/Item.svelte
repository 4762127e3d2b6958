<script lang="ts">
  import { work } from '../work.svelte';
  import Choice from './Choice.svelte';

  /** An item number in one sentence: what the parts list says of its first item. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'item_number' ? a : undefined;
  });
  let item = $derived(work.state?.document.items?.find((i) => i.id === own?.items[0]));
  let more = $derived((own?.items.length ?? 1) - 1);
  const change = (changes: { [name: string]: string | number }) =>
    item && work.act({ act: 'change_item', id: item.id, ...changes });
  const whole = (v: string) => Number(v.replace(/[^0-9]/g, ''));
</script>

{#if own && item}
  <span>
    Item
    <Choice
      value={`${item.number}`}
      label="Item number; where another has it, the two change places"
      typed
      options={[]}
      onset={(v: string) => whole(v) > 0 && change({ number: whole(v) })}
    />
    <Choice
      value={item.name || 'without a name'}
      label="Name in the parts list"
      typed
      text={item.name ?? ''}
      options={[['', 'no name']]}
      onset={(v: string) => change({ name: v })}
      after=","
    />
    {item.quantity}×, material
    <Choice
      value={item.material || 'not stated'}
      label="Material, or with its density: Own alloy, 8.1"
      typed
      text={item.material ?? ''}
      options={[['', 'not stated'], ...work.materials.map((m): [string, string] => [m, m])]}
      onset={(v: string) => change({ material: v })}
      after=","
    />
    <Choice
      value={item.remarks || 'no remarks'}
      label="Remarks in the parts list"
      typed
      text={item.remarks ?? ''}
      options={[['', 'no remarks']]}
      onset={(v: string) => change({ remarks: v })}
      after=","
    />
    <Choice
      value={{ ring: 'in a ring', underline: 'underlined', bare: 'bare' }[own.form ?? 'ring']}
      label="How the number stands"
      options={[
        ['ring', 'in a ring'],
        ['underline', 'underlined'],
        ['bare', 'bare'],
      ]}
      onset={(v: string) => work.setAnnotations([id], { form: v as 'ring' | 'underline' | 'bare' })}
      after={more ? `, with ${more} more on its leader.` : '.'}
    />
  </span>
{/if}
