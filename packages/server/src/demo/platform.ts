/**
 * The demo's learning platform: opened where it was before, registered like any other, and linked to the first course, which is fed by
 * it through open standards.
 */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  DEMO_COLLEAGUES,
  DEMO_INSTRUCTOR,
  LAUNCH_ROLES,
  openPlatform,
  UNCONNECTED,
  unconnectedGrades,
  type Campus,
  type ClassRoster,
  type DemoClock,
  type LearningPlatform,
  type TellingTarget,
} from '@zest-bell/standins';
import { DAY, HOUR } from '@zest-bell/core/time';
import { fullName, type Person } from '@zest-bell/core/course';
import { Access, Account } from '../access/entity.ts';
import { CourseRow } from '../course/entity.ts';
import { SourceRow, sourceHolds, sourceLinkHolds } from '../connections/entity.ts';
import {
  PlatformRow,
  platformHolds,
  launchCourseHolds,
  launchAccountHolds,
  launchPartHolds,
} from '../connections/lti/entity.ts';
import type { ConnectionServices } from '../connections/services.ts';
import type { Tx } from '../platform/database/orm.ts';
import { wallClock } from '../platform/process/clock.ts';
import { insertRow, updateRow, insertRows } from '../platform/database/writing.ts';
import { inInstallation, alsoAccount } from '../access/holding.ts';
import { alsoCourse } from '../course/lock.ts';

/** The class as the platform knows it. */
const CONTEXT = 'nav-120';
/** Another class of it, from which nobody has opened Zest Bell yet. */
const OTHER_CONTEXT = 'knt-105';
const DEPLOYMENT = 'd1';
/** What its messages call it: its port may be another tomorrow, and what it told has to read the same. */
const NAME = 'https://campus.saltmarsh.example';
/** Which student opens the tool from the platform's page. */
const A_STUDENT = 2;

/** How somebody is called by the platform: colleagues who are in no roster by their address. */
const subjectOf = (email: string, campus: Campus): string =>
  campus.course.people.find((p) => p.email === email)?.id ?? email.split('@')[0]!;

export async function openDemoPlatform(
  folder: string,
  { tool, campus, clock }: { readonly tool: () => string; readonly campus: Campus; readonly clock: DemoClock },
): Promise<LearningPlatform> {
  const { course } = campus;
  const staff = [
    { ...DEMO_INSTRUCTOR, role: LAUNCH_ROLES.instructor },
    ...DEMO_COLLEAGUES.flatMap(({ role, ...person }) =>
      role === 'observer'
        ? []
        : [{ ...person, role: role === 'assistant' ? LAUNCH_ROLES.assistant : LAUNCH_ROLES.instructor }],
    ),
  ];
  const teachers = staff.map(({ name, email, role }) => ({
    sub: subjectOf(email, campus),
    name,
    email,
    roles: [role],
  }));
  const studentIn = (people: readonly Person[]) => {
    const student = people.filter((p) => p.role === 'student')[A_STUDENT]!;
    return { sub: student.id, name: fullName(student), email: student.email ?? '', roles: [LAUNCH_ROLES.learner] };
  };
  /** Once an instant of the demo's clock: a source asks many times in a row. */
  let last: { readonly at: number; readonly told: ClassRoster } | null = null;
  const told = (): ClassRoster => {
    if (last?.at !== clock.now()) last = { at: clock.now(), told: toldNow() };
    return last.told;
  };
  const toldNow = (): ClassRoster => {
    const { grades } = campus.activity(course.calendar.start, clock.now());
    const latest = new Map(grades.map((g) => [`${g.person} ${g.item}`, g]));
    const people = course.people.filter((p) => p.enrolledAt <= clock.now());
    return { code: course.code, title: course.title, people, items: course.items, grades: [...latest.values()] };
  };
  const options = {
    tool,
    contexts: [
      { id: CONTEXT, label: course.code, title: course.title, launchers: [...teachers, studentIn(course.people)] },
      {
        id: OTHER_CONTEXT,
        label: UNCONNECTED.code,
        title: UNCONNECTED.title,
        launchers: [teachers[0]!, studentIn(UNCONNECTED.people)],
      },
    ],
    classes: () =>
      new Map([
        [CONTEXT, told()],
        [OTHER_CONTEXT, { ...UNCONNECTED, grades: unconnectedGrades(clock.now()) }],
      ]),
  };
  // Where it was before, if nobody else is there now.
  const file = join(folder, 'campus-port');
  const before = existsSync(file) ? Number(readFileSync(file, 'utf8')) : 0;
  const platform = await openPlatform({ ...options, port: before }).catch(() => openPlatform(options));
  writeFileSync(file, new URL(platform.base).port);
  return platform;
}

/** Where the platform sends what its students do. */
export const lineTo = (
  platform: LearningPlatform,
  { base, token, campus, course }: { base: string; token: string; campus: Campus; course: number },
): TellingTarget => ({
  caliper: `${base}/caliper/${course}`,
  xapi: `${base}/xapi/${course}/statements`,
  token,
  places: { base: NAME, context: CONTEXT, items: campus.course.items },
  faults: platform.state.switched,
});

/** Registers it, the first time with the course as its own; later its address may be another. Returns the course. */
export async function registerDemoPlatform(
  { orm, sealOutside }: Pick<ConnectionServices, 'orm' | 'sealOutside'>,
  platform: LearningPlatform,
  campus: Campus,
): Promise<number> {
  const { id: course } = await orm.em
    .fork()
    .findOneOrFail(CourseRow, { code: campus.course.code }, { orderBy: { id: 'asc' } });
  return inInstallation(orm, (own) =>
    alsoCourse(own, course, async (tx) => {
      const { registration, roster } = platform;
      const { clientId } = registration;
      const known = await tx.findOne(PlatformRow, { clientId, issuer: { $like: 'http://localhost:%' } });
      if (known) {
        await updateRow(own, platformHolds, known, registration);
        for (const source of await tx.find(SourceRow, { course }))
          await updateRow(tx, sourceHolds, source, {
            settings: { ...source.settings, ...settingsOf(platform, source.kind) },
          });
        return course;
      }
      // A platform that somebody removed is not added again.
      if ((await tx.count(SourceRow, { course })) > 0) return course;
      const row = await insertRow(own, platformHolds, {
        ...registration,
        tokenAudience: null,
        frameOrigins: [],
        serviceOrigins: [],
        addedAt: wallClock(),
        approvedAt: wallClock(),
      });
      await insertRow(tx, launchCourseHolds, { platform: row.id, deployment: DEPLOYMENT, context: CONTEXT, course });
      await linkPeople(tx, { platform: row.id, course, campus });
      const sources = await insertRows(
        tx,
        sourceHolds,
        (['lti', 'oneroster'] as const).map((kind) => ({
          course,
          kind,
          addedAt: wallClock(),
          nextAt: wallClock() + (kind === 'lti' ? DAY : HOUR),
          settings:
            kind === 'lti'
              ? { ...settingsOf(platform, kind), platform: row.id, deployment: DEPLOYMENT, context: CONTEXT }
              : { ...settingsOf(platform, kind), class: CONTEXT },
          secret: kind === 'lti' ? null : sealOutside.close(roster.clientSecret),
        })),
      );
      // Nobody finds them by their address: the platform knew them before.
      const without = campus.course.people.filter((p) => p.email === null);
      for (const source of sources)
        for (const { id } of without)
          await insertRow(tx, sourceLinkHolds, { source: source.id, kind: 'person', external: id, key: id });
      return course;
    }),
  );
}

function settingsOf(platform: LearningPlatform, kind: SourceRow['kind']): Readonly<Record<string, unknown>> {
  if (kind === 'lti') return platform.servicesOf(CONTEXT);
  const { base, tokenUrl, version, clientId } = platform.roster;
  return { base, tokenUrl, version, clientId };
}

/** Who has a part in the course already is the same person when they come by a launch. */
async function linkPeople(
  tx: Tx<'course'>,
  { platform, course, campus }: { platform: number; course: number; campus: Campus },
): Promise<void> {
  for (const { account, role } of await tx.find(Access, { course })) {
    const { email } = await tx.findOneOrFail(Account, { id: account });
    const subject = subjectOf(email, campus);
    await alsoAccount(tx, account, (mine) =>
      insertRow(mine, launchAccountHolds, { platform, deployment: DEPLOYMENT, subject, account }),
    );
    await insertRow(tx, launchPartHolds, { account, course, role });
  }
}
