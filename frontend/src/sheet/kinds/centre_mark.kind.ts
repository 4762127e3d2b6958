import { centre } from './centre';

export default centre('centre_mark', ['centre mark', 'centre marks']);
