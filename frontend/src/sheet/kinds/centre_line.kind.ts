import { centre } from './centre';

export default centre({
  kind: 'centre_line',
  noun: ['centre line', 'centre lines'],
  counts: 'axis',
  caught: (own) =>
    own.kind === 'centre_line' && own.refs.length ? { ref: own.refs[0], at: 'axis' } : undefined,
});
