/** A tool with a platform beside it, for tests that launch. */
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { openPlatform, type LaunchClaims } from '@zest-bell/standins';
import request from 'supertest';
import { PersonRow } from '../course/entity.ts';
import { addPlatform, platformSchema } from '../connections/lti/platforms.ts';
import { openStage, type Agent } from './stage.ts';
import { unguarded } from './unguarded.ts';

export const BASE = 'https://bell.college.example';
export const TARGET = `${BASE}/lti/launch`;
const SET_COOKIE = 'set-cookie';

/** A login that the platform was asked for. */
export interface BegunLogin {
  readonly to: URL;
  readonly state: string;
  readonly nonce: string;
  readonly cookie: string;
}

export type LaunchStage = Awaited<ReturnType<typeof openLaunching>>;

export async function openLaunching() {
  let at = '';
  const platform = await openPlatform({ tool: () => at });
  const stage = await openStage({ now: '2026-09-14T12:00', publicUrl: BASE });
  // The platform fetches the tool’s keys over the network.
  const tool = createServer(stage.app);
  await new Promise<void>((ready) => tool.listen(0, '127.0.0.1', () => ready()));
  at = `http://127.0.0.1:${(tool.address() as AddressInfo).port}`;
  const registration = { ...platform.registration, frameOrigins: ['https://frames.campus.example'] };
  await addPlatform(stage.services, platformSchema.parse(registration));
  const asLogin = { iss: platform.issuer, login_hint: 'u1', target_link_uri: TARGET, client_id: 'tool-1' };

  const login = (query: object = asLogin) => request(stage.app).get('/lti/login').query(query);
  const begun = async (query: object = asLogin): Promise<BegunLogin> => {
    const res = await login(query).expect(302);
    const to = new URL(res.headers['location']!);
    const [set] = res.headers[SET_COOKIE] as unknown as string[];
    const of = (name: string) => to.searchParams.get(name)!;
    return { to, state: of('state'), nonce: of('nonce'), cookie: set!.split(';')[0]! };
  };
  const post = ({ state, cookie }: Pick<BegunLogin, 'state' | 'cookie'>, token: string, more: object = {}) => {
    const asked = request(stage.app).post('/lti/launch').type('form');
    return (cookie === '' ? asked : asked.set('cookie', cookie)).send({ id_token: token, state, ...more });
  };
  const launch = async (message: Partial<LaunchClaims> = {}) => {
    const b = await begun();
    return post(b, await platform.sign({ nonce: b.nonce, target: TARGET, ...message }));
  };
  /** In the browser that the launch was answered in. */
  const launched = async (
    message: Partial<LaunchClaims> = {},
  ): Promise<{ agent: Agent; leadsTo: string; cookie: string }> => {
    const res = await launch(message);
    if (res.status !== 303) throw new Error(`The launch was answered ${res.status}: ${res.text}`);
    const session = (res.headers[SET_COOKIE] as unknown as string[]).find((c) => c.startsWith('zest-bell-launched='))!;
    const cookie = session.split(';')[0]!;
    const agent = request.agent(stage.app).set('sec-fetch-site', 'same-origin').set('cookie', cookie);
    return { agent, leadsTo: res.headers['location']!, cookie };
  };
  return {
    stage,
    platform,
    registration,
    asLogin,
    login,
    begun,
    post,
    launch,
    launched,
    /** Who is in the class that launches, unless told otherwise. */
    members: (): object[] => {
      const all = platform.members.get('c7') ?? [];
      platform.members.set('c7', all);
      return all;
    },
    /** Somebody of the course that the first launch made. */
    person: (key: string) => unguarded(stage.orm).findOne(PersonRow, { course: 2, key }),
    close: async () => {
      await new Promise<void>((closed) => tool.close(() => closed()));
      await stage.close();
      await platform.close();
    },
  };
}
