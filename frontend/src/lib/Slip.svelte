<script lang="ts">
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';

  /** A slip of paper laid over the desk, or at its left where what lies there is looked at: title, content, closed by Esc. */
  let {
    title,
    open,
    aside = false,
    onclose,
    children,
  }: { title: string; open: boolean; aside?: boolean; onclose: () => void; children: Snippet } = $props();
</script>

<Dialog {open} onOpenChange={(e) => !e.open && onclose()}>
  <Portal>
    <Dialog.Backdrop class={`fixed inset-0 z-40 ${aside ? '' : 'bg-black/25'}`} />
    <Dialog.Positioner
      class={`fixed inset-0 z-50 flex ${aside ? 'items-start justify-start pt-12 px-2' : 'items-center justify-center p-4'}`}
    >
      <Dialog.Content class="slip">
        <Dialog.Title class="mb-2 text-xl font-bold">{title}</Dialog.Title>
        {@render children()}
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>
