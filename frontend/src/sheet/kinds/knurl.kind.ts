import { typedKind } from './hung';

export default typedKind('knurl', ['knurl', 'knurls']);
