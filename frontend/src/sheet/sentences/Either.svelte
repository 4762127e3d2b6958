<script lang="ts">
  import Choice from './Choice.svelte';

  /** A changeable part of a sentence that is one of two: `words` for no and for yes. */
  let {
    on,
    words,
    label,
    after = '',
    onset,
  }: {
    on: boolean;
    words: [string, string];
    label: string;
    after?: string;
    onset: (on: boolean) => void;
  } = $props();
</script>

<Choice
  value={words[on ? 1 : 0]}
  {label}
  options={[
    ['no', words[0]],
    ['yes', words[1]],
  ]}
  onset={(v) => onset(v === 'yes')}
  {after}
/>
