/** Names and Roles, Course Groups, and Assignment and Grade Services, as a platform tells them (LTI Advantage, from memory); nothing is written to it. */
import type {
  RefusedTold,
  DataFromSource,
  GradeFromSource,
  ItemFromSource,
  PersonFromSource,
} from '@zest-bell/core/connections';
import { jsonOf, mustBeGood, OutgoingTrouble } from '../../platform/http/outgoing.ts';
import { nextOf } from '../oneRoster/client.ts';
import type { ConnectionServices } from '../services.ts';
import { PlatformRow } from './entity.ts';
import { assertion } from './keys.ts';
import { originsOf } from './platforms.ts';
import { roleOf } from './who.ts';

const NAMES_SCOPE = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly';
/** Reading line items and results; a platform names those that it gives at the launch. */
const GRADE_SCOPES = [
  'https://purl.imsglobal.org/spec/lti-ags/scope/lineitem.readonly',
  'https://purl.imsglobal.org/spec/lti-ags/scope/lineitem',
  'https://purl.imsglobal.org/spec/lti-ags/scope/result.readonly',
];
const GROUPS_SCOPE = 'https://purl.imsglobal.org/spec/lti-gs/scope/contextgroup.readonly';
export const SCOPES = [NAMES_SCOPE, GROUPS_SCOPE, GRADE_SCOPES[0]!, GRADE_SCOPES[2]!];

const MOST_PAGES = 1000;

export interface LtiSettings {
  readonly platform: number;
  readonly namesUrl: string | null;
  /** Where groups of the course are; sections come from nowhere else. */
  readonly groupsUrl?: string | null | undefined;
  readonly itemsUrl: string | null;
  readonly scopes: readonly string[];
}

type LtiClient = Pick<ConnectionServices, 'orm' | 'reading' | 'outgoing' | 'sealOutside'>;
type UncheckedRecord = Readonly<Record<string, unknown>>;
const text = (value: unknown): string => (typeof value === 'string' ? value.trim() : '');

/** Throws `OutgoingTrouble`. */
export async function askPlatform(
  services: LtiClient,
  settings: LtiSettings,
): Promise<{ readonly told: DataFromSource; readonly refused: readonly RefusedTold[] }> {
  const { reading, outgoing } = services;
  const platform = await reading.em.fork().findOne(PlatformRow, { id: settings.platform });
  if (!platform) throw new OutgoingTrouble('refused', 'The platform is no longer registered');
  const origins = originsOf(platform);
  const { namesUrl, groupsUrl = null, itemsUrl } = settings;
  const scopes = [
    ...(namesUrl === null ? [] : [NAMES_SCOPE]),
    ...(groupsUrl === null ? [] : [GROUPS_SCOPE]),
    ...(itemsUrl === null ? [] : GRADE_SCOPES.filter((s) => settings.scopes.includes(s))),
  ];
  const token = await tokenFor(services, platform, scopes);
  const list = async (from: string, accept: string, read: (page: unknown) => unknown): Promise<UncheckedRecord[]> => {
    const found: UncheckedRecord[] = [];
    let url: URL | null = new URL(from);
    for (let page = 0; url !== null; page++) {
      if (page >= MOST_PAGES) throw new OutgoingTrouble('tooLarge', 'It goes on and on');
      const came = await outgoing.ask(url.href, { headers: { accept, authorization: `Bearer ${token}` }, origins });
      mustBeGood(came, url.pathname);
      const entries = read(jsonOf(came, url.pathname));
      if (!Array.isArray(entries)) throw new OutgoingTrouble('garbage', `${url.pathname} was answered without a list`);
      found.push(...entries.filter((e): e is UncheckedRecord => typeof e === 'object' && e !== null));
      url = nextOf(came.headers.link, url);
    }
    return found;
  };
  const refused: RefusedTold[] = [];
  const sections =
    groupsUrl === null
      ? null
      : sectionsOf(
          await list(groupsUrl, 'application/vnd.ims.lti-gs.v1.contextgroupcontainer+json', (page) =>
            page !== null && typeof page === 'object' ? (page as UncheckedRecord)['groups'] : null,
          ),
        );
  const people =
    namesUrl === null
      ? []
      : (
          await list(namesUrl, 'application/vnd.ims.lti-nrps.v2.membershipcontainer+json', (page) =>
            page !== null && typeof page === 'object' ? (page as UncheckedRecord)['members'] : null,
          )
        ).flatMap((m) => personOf(m, refused, sections));
  const items: ItemFromSource[] = [];
  const grades: GradeFromSource[] = [];
  if (itemsUrl !== null && settings.scopes.some((s) => s.startsWith(GRADE_SCOPES[1]!))) {
    const lines = await list(itemsUrl, 'application/vnd.ims.lis.v2.lineitemcontainer+json', (page) => page);
    for (const line of lines) {
      const id = text(line['id']);
      const points = typeof line['scoreMaximum'] === 'number' ? line['scoreMaximum'] : null;
      if (id === '') {
        refused.push({ what: 'item', id: '', code: 'noId', message: 'This line item has no id' });
        continue;
      }
      const due = Date.parse(text(line['endDateTime']));
      items.push({ id, title: text(line['label']), points, dueAt: Number.isNaN(due) ? null : due });
      if (!settings.scopes.includes(GRADE_SCOPES[2]!)) continue;
      const results = await list(resultsOf(id), 'application/vnd.ims.lis.v2.resultcontainer+json', (page) => page);
      for (const result of results) {
        const [score, most] = [result['resultScore'], result['resultMaximum']];
        if (typeof score !== 'number') continue;
        const share = typeof most === 'number' && most > 0 && points !== null ? (score / most) * points : score;
        const at = Date.parse(text(result['timestamp']));
        grades.push({
          id: text(result['id']),
          person: text(result['userId']),
          item: id,
          points: Math.round(share * 1e9) / 1e9,
          at: Number.isNaN(at) ? null : at,
        });
      }
    }
  }
  return { told: { people, items, grades, isWhole: namesUrl !== null }, refused };
}

/** `/results` goes before a query in the line item's own address. */
function resultsOf(lineItem: string): string {
  if (!URL.canParse(lineItem)) throw new OutgoingTrouble('garbage', 'A line item has no address');
  const url = new URL(lineItem);
  url.pathname = `${url.pathname.replace(/\/$/, '')}/results`;
  return url.href;
}

/** Names of the groups that are sections, by their ids: those that are tagged so, or all where none is. */
function sectionsOf(groups: readonly UncheckedRecord[]): ReadonlyMap<string, string> {
  const tagged = groups.filter((g) => text(g['tag']).toLowerCase() === 'section');
  return new Map((tagged.length > 0 ? tagged : groups).map((g) => [text(g['id']), text(g['name'])]));
}

/** The section of a member; undefined where it is not told, or where they are in several. */
function sectionOf(member: UncheckedRecord, sections: ReadonlyMap<string, string> | null): string | undefined {
  const enrolled: unknown = member['group_enrollments'];
  if (sections === null || !Array.isArray(enrolled)) return undefined;
  const names = enrolled.flatMap((e: unknown) =>
    typeof e === 'object' && e !== null ? (sections.get(text((e as UncheckedRecord)['group_id'])) ?? []) : [],
  );
  return names.length === 1 && names[0] !== '' ? names[0] : undefined;
}

function personOf(
  member: UncheckedRecord,
  refused: RefusedTold[],
  sections: ReadonlyMap<string, string> | null,
): PersonFromSource[] {
  const id = text(member['user_id']);
  if (id === '') {
    refused.push({ what: 'person', id: '', code: 'noId', message: 'This member has no user_id' });
    return [];
  }
  const roles = Array.isArray(member['roles']) ? member['roles'].filter((r): r is string => typeof r === 'string') : [];
  const isLearner = roles.some((r) => /(^|#)Learner$/.test(r));
  const role = roleOf(roles);
  // A mentor or a content developer is nobody whom rules look at.
  if (role === 'student' && !isLearner) return [];
  const whole = text(member['name']);
  const blank = whole.lastIndexOf(' ');
  const email = text(member['email']);
  return [
    {
      id,
      firstName: text(member['given_name']) || (blank < 0 ? whole : whole.slice(0, blank)),
      lastName: text(member['family_name']) || (blank < 0 ? '' : whole.slice(blank + 1)),
      email: email === '' ? null : email,
      section: sectionOf(member, sections),
      role,
      active: !/^(inactive|deleted)$/i.test(text(member['status'])),
    },
  ];
}

async function tokenFor(services: LtiClient, platform: PlatformRow, scopes: readonly string[]): Promise<string> {
  const { tokenEndpoint, tokenAudience, clientId } = platform;
  const came = await services.outgoing.ask(tokenEndpoint, {
    method: 'POST',
    headers: { 'content-type': 'application/x-www-form-urlencoded' },
    body: new URLSearchParams({
      grant_type: 'client_credentials',
      client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
      client_assertion: await assertion(services, clientId, tokenAudience ?? tokenEndpoint),
      scope: scopes.join(' '),
    }).toString(),
    origins: [new URL(tokenEndpoint).origin],
  });
  mustBeGood(came, 'The request for a token');
  const said = (jsonOf(came, 'The request for a token') as UncheckedRecord | null)?.['access_token'];
  if (typeof said !== 'string' || said === '') throw new OutgoingTrouble('garbage', 'The answer has no access token');
  return said;
}
