/** What the platform tells of one class when its services are asked: names and roles, line items and results. */
import type { Item, Person } from '@zest-bell/core/course';
import type { CampusGrade } from '../campus/simulator.ts';

export interface ClassRoster {
  readonly code: string;
  readonly title: string;
  readonly people: readonly Person[];
  /** Those with points are line items. */
  readonly items: readonly Item[];
  /** The latest of each student and item. */
  readonly grades: readonly CampusGrade[];
}

const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership';
export const LAUNCH_ROLES = {
  instructor: `${MEMBERSHIP}#Instructor`,
  learner: `${MEMBERSHIP}#Learner`,
  assistant: `${MEMBERSHIP}/Instructor#TeachingAssistant`,
} as const;

const ROLES: Readonly<Record<Person['role'], string>> = {
  student: LAUNCH_ROLES.learner,
  instructor: LAUNCH_ROLES.instructor,
  assistant: LAUNCH_ROLES.assistant,
  observer: LAUNCH_ROLES.learner,
};

export const graded = (told: ClassRoster): readonly Item[] => told.items.filter((i) => i.points !== null);

/** Members as Names and Roles has them. */
export const membersOf = (told: ClassRoster): object[] =>
  told.people.map((p) => ({
    user_id: p.id,
    given_name: p.firstName,
    family_name: p.lastName,
    name: `${p.firstName} ${p.lastName}`,
    ...(p.email === null ? {} : { email: p.email }),
    status: p.active ? 'Active' : 'Inactive',
    roles: [ROLES[p.role]],
  }));

/** Line items as Assignment and Grade Services has them; `at`: the address of the list. */
export const linesOf = (told: ClassRoster, at: string): Record<string, unknown>[] =>
  graded(told).map((i) => ({
    id: `${at}/${i.id}`,
    label: i.title,
    scoreMaximum: i.points,
    ...(i.dueAt === null ? {} : { endDateTime: new Date(i.dueAt).toISOString() }),
  }));

export const resultsOf = (told: ClassRoster, item: string): object[] =>
  told.grades
    .filter((g) => g.item === item)
    .map((g) => ({
      id: g.id,
      userId: g.person,
      resultScore: g.points,
      resultMaximum: told.items.find((i) => i.id === item)?.points,
    }));
