import { typedKind } from './hung';

export default typedKind('weld', ['weld', 'welds']);
