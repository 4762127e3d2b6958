import { hungKind } from './hung';

export default hungKind({
  kind: 'hole_letter',
  noun: ['letter of a hole', 'letters of holes'],
  counts: 'mark',
});
