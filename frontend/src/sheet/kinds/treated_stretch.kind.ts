import { typedKind } from './hung';

export default typedKind('treated_stretch', ['treated stretch', 'treated stretches']);
