import { api } from '../api/client';
import { notices } from '../lib/notices.svelte';
import { work } from './work.svelte';

/** The closed contours of a view at 1:1, for cutting machines; where there are none it is said why. */
export async function contour(view: string) {
  const href = `/api/drawings/${work.id}/views/${view}/contour`;
  try {
    const answer = await fetch(href, { method: 'HEAD' });
    if (answer.ok) return fetched(href);
    await api.contour(work.id, view);
  } catch (error) {
    notices.refuse(error);
  }
}

/** A file of the server given to the user. */
export function fetched(href: string) {
  const link = document.createElement('a');
  link.href = href;
  link.download = '';
  link.click();
}
