import { typedKind } from './hung';

export default typedKind('edge_sign', ['edge sign', 'edge signs']);
