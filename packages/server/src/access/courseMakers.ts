/** Who may make courses. A first launch from a registered platform is exempt: the platform has named the instructor of the course. */
import { AppError } from '../platform/http/errors.ts';
import type { Em } from '../platform/database/orm.ts';
import type { Account } from './entity.ts';
import { installationOf } from './installation.ts';
import { isProven } from './proven.ts';

type Maker = Pick<Account, 'id' | 'email' | 'isAdministrator' | 'isUnproven'>;

/** Whether the installation lets an account make courses, once its address is proven. */
export async function mayMakeCourses(em: Em, { id, isAdministrator }: Maker): Promise<boolean> {
  const { coursesBy, courseMakers } = await installationOf(em);
  if (isAdministrator || coursesBy === 'proven') return true;
  return coursesBy === 'named' && courseMakers.includes(id);
}

/** Throws `mayNotMakeCourses`, or `addressNotProven` where a code would help. */
export async function mustMakeCourses(em: Em, maker: Maker): Promise<void> {
  if (!(await mayMakeCourses(em, maker))) throw new AppError('mayNotMakeCourses');
  if (maker.isUnproven || !(await isProven(em, maker.id, maker.email))) throw new AppError('addressNotProven');
}
