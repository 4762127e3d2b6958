import { createToaster } from '@skeletonlabs/skeleton-svelte';
import { Refusal } from '../api/client';

/** Short messages over the foot of the route card: they cover nothing that a hand is at work on. */
class Notices {
  readonly toaster = createToaster({
    placement: 'bottom-start',
    max: 3,
    gap: 6,
    offsets: { left: '6px', right: '6px', top: '54px', bottom: '104px' },
  });

  say(title: string, detail = '', bad = false) {
    this.toaster.create({
      title,
      description: detail,
      type: bad ? 'warning' : 'info',
      duration: bad ? 12000 : 5000,
    });
  }

  /** Tell why something was refused. */
  refuse(error: unknown) {
    if (error instanceof Refusal) this.say(error.problem.title, error.problem.detail ?? '', true);
    else this.say('Something went wrong here', String(error), true);
  }
}

export const notices = new Notices();
