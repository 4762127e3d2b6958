import { typedKind } from './hung';

export default typedKind('centre_hole', ['centre hole', 'centre holes']);
