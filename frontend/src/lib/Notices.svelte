<script lang="ts">
  import { Toast } from '@skeletonlabs/skeleton-svelte';
  import { notices } from './notices.svelte';
</script>

<Toast.Group toaster={notices.toaster}>
  {#snippet children(toast)}
    <Toast {toast} class={`notice ${toast.type === 'warning' ? 'bad' : ''}`}>
      <Toast.Message>
        <Toast.Title class="font-bold">{toast.title}</Toast.Title>
        {#if toast.description}<Toast.Description>{toast.description}</Toast.Description>{/if}
      </Toast.Message>
      <Toast.CloseTrigger class="quiet" aria-label="Close this notice">×</Toast.CloseTrigger>
    </Toast>
  {/snippet}
</Toast.Group>
