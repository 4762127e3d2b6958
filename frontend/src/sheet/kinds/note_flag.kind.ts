import FlagSentence from '../sentences/Flag.svelte';
import { hungKind } from './hung';

export default hungKind({
  kind: 'note_flag',
  noun: ['flag', 'flags'],
  sentence: FlagSentence,
  counts: 'sign',
});
