/** A platform registers itself. What it asks and answers follows LTI Dynamic Registration 1.0, from memory. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import type { PlatformCard, RegistrationAddress } from '@zest-bell/core/connections';
import { openPlatform, type LearningPlatform } from '@zest-bell/standins';
import { Account } from '../../access/entity.ts';
import { openStage, type Agent, type TestStage } from '../../testing/stage.ts';
import { RegistrationCodeRow } from './entity.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let platform: LearningPlatform;
let ada: Agent;
const BASE = 'https://bell.college.example';
const CLAIM = 'https://purl.imsglobal.org/spec/lti-tool-configuration';
beforeEach(async () => {
  platform = await openPlatform({ tool: () => BASE });
  stage = await openStage({ now: '2026-09-14T12:00', publicUrl: BASE });
  await unguarded(stage.orm).nativeUpdate(Account, { email: 'ada@saltmarsh.example' }, { isAdministrator: true });
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await platform.close();
});

async function addressFor(origin = platform.base): Promise<string> {
  const { body } = await ada.post('/api/v1/admin/platforms/address').send({ origin }).expect(200);
  return (body as RegistrationAddress).address;
}
/** As the platform opens it: with where it says what it is, and what lets the tool in. */
const open = (address: string, query: Record<string, string> = {}) => {
  const { pathname, searchParams } = new URL(address);
  return request(stage.app)
    .get(pathname)
    .query({
      code: searchParams.get('code'),
      openid_configuration: `${platform.base}/.well-known/openid-configuration`,
      registration_token: 'once',
      ...query,
    });
};
const known = async () => (await ada.get('/api/v1/admin/platforms').expect(200)).body as PlatformCard[];
const login = () =>
  request(stage.app)
    .get('/lti/login')
    .query({ iss: platform.issuer, login_hint: 'u1', target_link_uri: `${BASE}/lti/launch`, client_id: 'tool-2' });

describe('a platform that registers itself', () => {
  test('is told what the tool is, and waits for a yes before it may launch', async () => {
    const address = await addressFor();
    expect(address).toMatch(/^https:\/\/bell\.college\.example\/lti\/register\?code=/);
    const page = await open(address).expect(200);
    expect(page.text).toMatch(/still has to let this platform open it/);
    expect(page.headers['content-security-policy']).toContain(`frame-ancestors 'self' ${platform.base}`);
    expect(platform.state.enrolled[0]).toMatchObject({
      application_type: 'web',
      response_types: ['id_token'],
      token_endpoint_auth_method: 'private_key_jwt',
      initiate_login_uri: `${BASE}/lti/login`,
      redirect_uris: [`${BASE}/lti/launch`],
      jwks_uri: `${BASE}/lti/keys`,
      [CLAIM]: { target_link_uri: `${BASE}/lti/launch`, messages: [{ type: 'LtiResourceLinkRequest' }] },
    });
    const [waiting] = await known();
    expect(waiting).toMatchObject({ clientId: 'tool-2', deployments: ['d2'], approvedAt: null });
    expect((await login().expect(400)).text).toContain('unknownPlatform');
    await ada.post(`/api/v1/admin/platforms/${waiting!.id}/yes`).send({}).expect(204);
    await login().expect(302);
    expect((await known())[0]!.approvedAt).not.toBeNull();
  });

  test('does so once at an address, and within the hour', async () => {
    const address = await addressFor();
    await open(address).expect(200);
    expect((await open(address).expect(400)).text).toContain('codeUnknown');
    const late = await addressFor();
    await unguarded(stage.orm).nativeUpdate(RegistrationCodeRow, {}, { endsAt: Date.now() - 1 });
    expect((await open(late).expect(400)).text).toContain('codeUnknown');
    expect((await open(`${BASE}/lti/register?code=guessed`).expect(400)).text).toContain('codeUnknown');
  });

  test.each([
    ['its configuration', () => ({ openid_configuration: 'https://elsewhere.example/openid' }), {}],
    ['its issuer', () => ({}), { issuer: 'https://elsewhere.example' }],
    ['where it takes registrations', () => ({}), { registration_endpoint: 'https://elsewhere.example/register' }],
    ['its keys', () => ({}), { jwks_uri: 'https://elsewhere.example/jwks' }],
  ])('is refused where %s lies on another origin than was typed', async (_what, query, says) => {
    platform.state.says = says;
    expect((await open(await addressFor(), query() as Record<string, string>).expect(400)).text).toContain(
      'otherOrigin',
    );
    expect(platform.state.enrolled).toEqual([]);
    expect(await known()).toEqual([]);
  });

  test('is told why where it does not say what it is, or lets nobody in', async () => {
    platform.state.says = { token_endpoint: 7 };
    expect((await open(await addressFor()).expect(400)).text).toContain('unreadable');
    platform.state.says = {};
    expect((await open(await addressFor(), { registration_token: 'another' }).expect(400)).text).toContain('refused');
    expect(await known()).toEqual([]);
  });

  test('gets its deployment typed where it names none, and an origin is an administrator’s alone', async () => {
    await open(await addressFor()).expect(200);
    const [{ id }] = (await known()) as [PlatformCard];
    await stage.orm.em.getConnection().execute(`update platform set deployments = '[]'`);
    const refused = await ada.post(`/api/v1/admin/platforms/${id}/yes`).send({}).expect(400);
    expect(refused.body).toMatchObject({ problems: [{ path: 'deployments' }] });
    await ada
      .post(`/api/v1/admin/platforms/${id}/yes`)
      .send({ deployments: ['d9'] })
      .expect(204);
    const bo = await stage.colleague('owner', 'bo2@saltmarsh.example');
    await bo.post('/api/v1/admin/platforms/address').send({ origin: platform.base }).expect(403);
    await ada.post('/api/v1/admin/platforms/address').send({ origin: 'ftp://x.example' }).expect(400);
  });
});
