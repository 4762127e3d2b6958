<script lang="ts">
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';

  /** A slip of paper laid over the desk: title, content, closed by Esc. */
  let {
    title,
    open,
    onclose,
    children,
  }: { title: string; open: boolean; onclose: () => void; children: Snippet } = $props();
</script>

<Dialog {open} onOpenChange={(e) => !e.open && onclose()}>
  <Portal>
    <Dialog.Backdrop class="fixed inset-0 z-40 bg-black/25" />
    <Dialog.Positioner class="fixed inset-0 z-50 flex items-center justify-center p-4">
      <Dialog.Content class="slip">
        <Dialog.Title class="mb-2 text-xl font-bold">{title}</Dialog.Title>
        {@render children()}
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>
