import { api, type Sheet } from '../api/client';
import { notices } from '../lib/notices.svelte';
import { guide } from './guide.svelte';
import { fetched } from './fetching';
import { work } from './work.svelte';

/** Wait until all views of sheets are there; how long that takes is shown. False where one is missing, or it was stopped. */
export async function viewsAreThere(sheets: Sheet[], kind = 'issue'): Promise<boolean> {
  const mine = {};
  work.issuing = { kind, share: 0, what: 'looking for its views', owner: mine };
  try {
    for (;;) {
      const lists = await Promise.all(sheets.map((s) => api.progress(work.id, s.id)));
      if (work.issuing?.owner !== mine) return false;
      const open = lists.flat();
      const stopped = open.find((p) => p.stopped);
      if (stopped) {
        notices.say(
          'A view is missing',
          `It was ${stopped.what}. Project it again, then issue the sheet.`,
          true,
        );
        return false;
      }
      if (!open.length) return true;
      const least = open.reduce((a, b) => (a.share < b.share ? a : b));
      work.issuing = { kind, share: least.share, what: least.what, owner: mine };
      await new Promise((r) => setTimeout(r, 400));
    }
  } catch (error) {
    notices.refuse(error);
    return false;
  } finally {
    if (work.issuing?.owner === mine) work.issuing = null;
  }
}

/** Give out a sheet, or all of them, as soon as all views are there; or issue the drawing as a revision. */
export async function issue(chosen: string) {
  if (!work.state) return;
  if (chosen === 'revision') {
    work.issuingAs = true;
    return;
  }
  if (chosen === 'print') {
    work.printing = true;
    return;
  }
  if (chosen === 'quill') return fetched(`/api/drawings/${work.id}/container`);
  const [kind, how] = chosen.split(' ');
  const all = how === 'all' || (['pdf', 'archive'].includes(kind) && !how);
  if (!(await viewsAreThere(all ? work.sheets : work.sheet ? [work.sheet] : [], kind))) return;
  fetched(
    `/api/drawings/${work.id}/issue/${kind}?sheet=${work.sheetId}${how ? `&sheets=${all ? 'all' : work.sheetNumber}` : ''}`,
  );
  guide.issued = true;
}
