import { typedKind } from './hung';

export default typedKind('datum_target', ['datum target', 'datum targets']);
