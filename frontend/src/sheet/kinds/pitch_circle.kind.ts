import { centre } from './centre';

export default centre({
  kind: 'pitch_circle',
  noun: ['pitch circle', 'pitch circles'],
  counts: 'axis',
  picked: (id) => `pitch:${id}`,
});
