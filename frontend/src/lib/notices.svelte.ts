import { Refusal } from '../api/client';

export type Notice = { id: number; title: string; detail: string; bad: boolean };

/** Short messages at the foot of the window. */
class Notices {
  list = $state<Notice[]>([]);
  private next = 1;

  say(title: string, detail = '', bad = false) {
    const id = this.next++;
    this.list = [...this.list.slice(-2), { id, title, detail, bad }];
    setTimeout(() => this.drop(id), bad ? 12000 : 5000);
  }

  /** Tell why something was refused. */
  refuse(error: unknown) {
    if (error instanceof Refusal) this.say(error.problem.title, error.problem.detail ?? '', true);
    else this.say('Something went wrong here', String(error), true);
  }

  drop(id: number) {
    this.list = this.list.filter((n) => n.id !== id);
  }
}

export const notices = new Notices();
