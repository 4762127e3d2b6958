import { centre } from './centre';

export default centre('centre_line', ['centre line', 'centre lines']);
