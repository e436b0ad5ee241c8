/** Asking a OneRoster service: a token by client credentials (RFC 6749, 4.4), then lists page by page. */
import { jsonOf, mustBeGood, OutgoingTrouble, type OutgoingClient } from '../../platform/http/outgoing.ts';
import type { OneRosterSettings } from './settings.ts';

const PAGE = 100;
const MOST_PAGES = 2000;

const SERVICES = {
  '1.2': { rostering: '/ims/oneroster/rostering/v1p2', gradebook: '/ims/oneroster/gradebook/v1p2' },
  '1.1': { rostering: '/ims/oneroster/v1p1', gradebook: '/ims/oneroster/v1p1' },
} as const;

/** Of version 1.2, from memory of the published security binding: what is asked for is read, and nothing else. */
const SCOPES = [
  'https://purl.imsglobal.org/spec/or/v1p2/scope/roster-core.readonly',
  'https://purl.imsglobal.org/spec/or/v1p2/scope/roster.readonly',
  'https://purl.imsglobal.org/spec/or/v1p2/scope/gradebook.readonly',
];

export interface OneRosterClient {
  /** All entries of a list; none where the service does not have it and `isOptional`. */
  readonly list: (
    of: keyof (typeof SERVICES)['1.2'],
    path: string,
    name: string,
    how?: ListOptions,
  ) => Promise<unknown[]>;
  readonly one: (of: keyof (typeof SERVICES)['1.2'], path: string) => Promise<unknown>;
}

export interface ListOptions {
  /** Only what changed after this. */
  readonly since?: number | null;
  readonly isOptional?: boolean;
}

/** Every method throws `OutgoingTrouble`. */
export function oneRosterClient(
  outgoing: OutgoingClient,
  settings: Omit<OneRosterSettings, 'class'>,
  secret: string,
): OneRosterClient {
  const base = settings.base.replace(/\/+$/, '');
  const baseOrigin = new URL(base).origin;
  const tokenOrigin = new URL(settings.tokenUrl).origin;
  let token: Promise<string> | null = null;

  const askToken = async (): Promise<string> => {
    const scope = (settings.scopes ?? (settings.version === '1.2' ? SCOPES : [])).join(' ');
    const form = new URLSearchParams({ grant_type: 'client_credentials', ...(scope === '' ? {} : { scope }) });
    const ask = (more: Readonly<Record<string, string>>, body: URLSearchParams) =>
      outgoing.ask(settings.tokenUrl, {
        method: 'POST',
        headers: { 'content-type': 'application/x-www-form-urlencoded', ...more },
        body: body.toString(),
        origins: [tokenOrigin],
      });
    // RFC 6749, 2.3.1: the names are form-encoded before they are joined.
    const encoded = (text: string) => encodeURIComponent(text).replace(/%20/g, '+');
    const basic = Buffer.from(`${encoded(settings.clientId)}:${encoded(secret)}`).toString('base64');
    let came = await ask({ authorization: `Basic ${basic}` }, form);
    if (came.status === 400 || came.status === 401) {
      const inBody = new URLSearchParams([...form, ['client_id', settings.clientId], ['client_secret', secret]]);
      came = await ask({}, inBody);
    }
    mustBeGood(came, 'The request for a token');
    const said = (jsonOf(came, 'The request for a token') as { access_token?: unknown } | null)?.access_token;
    if (typeof said !== 'string' || said === '') throw new OutgoingTrouble('garbage', 'The answer has no access token');
    return said;
  };

  const get = async (url: string) => {
    const authorization = `Bearer ${await (token ??= askToken())}`;
    return outgoing.ask(url, { headers: { authorization }, origins: [baseOrigin] });
  };

  return {
    async one(of, path) {
      const came = await get(`${base}${SERVICES[settings.version][of]}${path}`);
      mustBeGood(came, path);
      return jsonOf(came, path);
    },
    async list(of, path, name, { since = null, isOptional = false } = {}) {
      const first = new URL(`${base}${SERVICES[settings.version][of]}${path}`);
      const found: unknown[] = [];
      let url: URL | null = first;
      for (let page = 0, offset = 0; url !== null; page++) {
        if (page >= MOST_PAGES) throw new OutgoingTrouble('tooLarge', `${path} goes on and on`);
        if (page === 0 || url === first) {
          url.searchParams.set('limit', String(PAGE));
          url.searchParams.set('offset', String(offset));
          if (since !== null) url.searchParams.set('filter', `dateLastModified>'${new Date(since).toISOString()}'`);
        }
        const came = await get(url.href);
        if (came.status === 404 && isOptional) return [];
        mustBeGood(came, path);
        const list = (jsonOf(came, path) as Record<string, unknown> | null)?.[name];
        if (!Array.isArray(list))
          throw new OutgoingTrouble('garbage', `${path} was answered without a list of ${name}`);
        found.push(...(list as unknown[]));
        const next = nextOf(came.headers.link, url);
        offset += PAGE;
        if (next) {
          if (next.origin !== baseOrigin)
            throw new OutgoingTrouble('forbiddenAddress', `${path} leads to ${next.origin}, which was never typed`);
          url = next;
        } else if (came.headers.link === undefined && list.length >= PAGE) url = first;
        else url = null;
      }
      return found;
    },
  };
}

/** The next page of a Link header (RFC 8288); null if absent. */
export function nextOf(header: string | string[] | undefined, from: URL): URL | null {
  for (const part of [header ?? []]
    .flat()
    .join(',')
    .matchAll(/<([^>]*)>([^<]*)/g)) {
    if (/;\s*rel\s*=\s*"?(?:[^"]*\s)?next(?:\s[^"]*)?"?/i.test(part[2]!) && URL.canParse(part[1]!, from.href))
      return new URL(part[1]!, from);
  }
  return null;
}
