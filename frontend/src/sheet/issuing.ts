import { api } from '../api/client';
import { notices } from '../lib/notices.svelte';
import { guide } from './guide.svelte';
import { work } from './work.svelte';

/** Issue a sheet, or all of them as PDF, as soon as all its views are there; how long that takes is shown. */
export async function issue(chosen: string) {
  if (!work.state) return;
  const [kind, how] = chosen.split(' ');
  const mine = {};
  work.issuing = { kind, share: 0, what: 'looking for its views', owner: mine };
  try {
    const all = how === 'all' || (kind === 'pdf' && !how);
    const sheets = all ? work.sheets : work.sheet ? [work.sheet] : [];
    for (;;) {
      const lists = await Promise.all(sheets.map((s) => api.progress(work.id, s.id)));
      if (work.issuing?.owner !== mine) return;
      const open = lists.flat();
      const stopped = open.find((p) => p.stopped);
      if (stopped) {
        notices.say(
          'A view is missing',
          `It was ${stopped.what}. Project it again, then issue the sheet.`,
          true,
        );
        return;
      }
      if (!open.length) break;
      const least = open.reduce((a, b) => (a.share < b.share ? a : b));
      work.issuing = { kind, share: least.share, what: least.what, owner: mine };
      await new Promise((r) => setTimeout(r, 400));
    }
    const link = document.createElement('a');
    link.href = `/api/drawings/${work.id}/issue/${kind}?sheet=${work.sheetId}${how ? `&sheets=${all ? 'all' : work.sheetNumber}` : ''}`;
    link.download = '';
    link.click();
    guide.issued = true;
  } catch (error) {
    notices.refuse(error);
  } finally {
    if (work.issuing?.owner === mine) work.issuing = null;
  }
}
