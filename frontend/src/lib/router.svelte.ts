/** Where we are, kept in the address after the hash. */
function parts(): string[] {
  return location.hash.replace(/^#\/?/, '').split('/').filter(Boolean);
}

class Router {
  path = $state(parts());

  constructor() {
    addEventListener('hashchange', () => (this.path = parts()));
  }

  go(...path: (string | number)[]) {
    location.hash = '/' + path.join('/');
  }
}

export const router = new Router();
