import { useBakes } from '../../project/use-bakes.ts';
import { useSession } from '../session.ts';

/** Follows the bakes of the project while the Bench is open: the title of the window says how far they are. */
export function BakeWatch(): null {
  useBakes(useSession().project.id);
  return null;
}
