// Runs on PostgreSQL too.
/** People with access: invited, given another role, taken away; programs with tokens; and the log of what was done. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import { accountActor, type AccessRole, type Capability } from '@zest-bell/core/access';
import type { AccessAnswer, ActsAnswer, InvitedAnswer, TokenLine } from '@zest-bell/core/exchange';
import { DAY, HOUR } from '@zest-bell/core/time';
import { openSmtp, type TestSmtp } from '../testing/smtp.ts';
import { until } from '../testing/until.ts';
import { openStage, PASSWORD, TOKEN, type Agent, type TestStage } from '../testing/stage.ts';
import { Access, Account, LinkRow, TokenRow } from './entity.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { hashOf } from './passwords.ts';
import { unguarded, freely } from '../testing/unguarded.ts';

const BASE = 'https://bell.college.example';
const COURSE = '/api/v1/courses/1';
const ADA = 'ada@saltmarsh.example';
const CY = 'cy@saltmarsh.example';
const NEW = { name: 'Cy Ngo', password: 'rope ladder tide' };

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-10T12:00', smtp: smtp.url, publicUrl: BASE });
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const anybody = () => request.agent(stage.app).set('sec-fetch-site', 'same-origin');
/** Invites somebody, and reads the link in the mail that they get. */
const invite = async (email: string, role: AccessRole = 'co-instructor') => {
  const { body } = await ada.post(`${COURSE}/invitations`).send({ email, role }).expect(201);
  const answer = body as InvitedAnswer;
  expect([answer.mailed, answer.link]).toEqual([true, null]);
  return { ...answer, link: /https:\S+#\S+/.exec(smtp.mails.at(-1)!.mail.text!)![0] };
};
const secretOf = (link: string) => link.split('#')[1]!;
const access = async (who = ada) => (await who.get(`${COURSE}/access`).expect(200)).body as AccessAnswer;
const codeOf = (res: request.Response) => (res.body as { code: string }).code;

describe('an invitation', () => {
  test('is mailed with a link of the server’s own address, and makes an account that is signed in', async () => {
    const { link, mailed } = await invite('Cy@Saltmarsh.example');
    expect([mailed, link]).toEqual([
      true,
      expect.stringMatching(/^https:\/\/bell\.college\.example\/invitation#\S{32}$/),
    ]);
    const { mail, to } = smtp.mails[0]!;
    expect([to, mail.subject]).toEqual([[CY], 'Ada Lind invites you to NAV 120 in Zest Bell']);
    expect(mail.text).toContain(link);

    const cy = anybody();
    const look = await cy
      .post('/api/v1/invitations/look')
      .send({ secret: secretOf(link) })
      .expect(200);
    expect(look.body).toMatchObject({ email: CY, role: 'co-instructor', by: 'Ada Lind', hasAccount: false });
    const session = await cy
      .post('/api/v1/invitations/accept')
      .send({ secret: secretOf(link), account: NEW })
      .expect(200);
    expect(session.body).toMatchObject({
      account: { name: 'Cy Ngo', email: CY, isAdministrator: false },
      courses: [{ id: 1, role: 'co-instructor' }],
    });
    expect((await access(cy)).people.map((p) => [p.name, p.role, p.isYou])).toEqual([
      ['Ada Lind', 'owner', false],
      ['Cy Ngo', 'co-instructor', true],
    ]);
    // Who may not invite sees no invitations.
    await invite('dora@saltmarsh.example');
    expect([(await access()).invitations.length, (await access(cy)).invitations.length]).toEqual([1, 0]);
  });

  test('works once, for seven days, and not after it was taken back or sent anew', async () => {
    const accept = (link: string) =>
      anybody()
        .post('/api/v1/invitations/accept')
        .send({ secret: secretOf(link), account: NEW });
    const first = await invite(CY);
    const second = await invite(CY);
    expect(codeOf(await accept(first.link).expect(410))).toBe('linkUsed');
    await accept(second.link).expect(200);
    await accept(second.link).expect(410);
    expect(codeOf(await ada.post(`${COURSE}/invitations`).send({ email: CY, role: 'owner' }).expect(409))).toBe(
      'hasAccess',
    );

    const late = await invite('dora@saltmarsh.example');
    const em = unguarded(stage.orm);
    await em.nativeUpdate(LinkRow, { id: late.id }, { endsAt: Date.now() - 1 });
    await accept(late.link).expect(410);
    const back = await invite('eve@saltmarsh.example');
    expect(back.id).toBe((await access()).invitations[0]!.id);
    await ada.delete(`${COURSE}/invitations/${back.id}`).expect(204);
    await accept(back.link).expect(410);
    await anybody().post('/api/v1/invitations/look').send({ secret: 'nobody made this' }).expect(404);
    const { endsAt, at } = await em.findOneOrFail(LinkRow, { id: second.id });
    expect(endsAt - at).toBe(7 * DAY);
  });

  test('to an address with an account is for that account, and for nobody else who is signed in', async () => {
    const { link } = await invite('bo@saltmarsh.example', 'assistant');
    const secret = secretOf(link);
    const accept = (who: Agent) => who.post('/api/v1/invitations/accept').send({ secret });
    expect(codeOf(await accept(anybody()).expect(409))).toBe('signInToAccept');
    expect(codeOf(await accept(ada).expect(409))).toBe('otherPerson');
    // Refused, it was not used up.
    const bo = await stage.signIn('bo@saltmarsh.example');
    const { body } = await accept(bo).expect(200);
    expect(body).toMatchObject({ account: { name: 'Bo Quist' }, courses: [{ id: 1, role: 'assistant' }] });
  });

  test('asks for a good password, and keeps working when the first one was not', async () => {
    const { link } = await invite(CY);
    const accept = (password: string) =>
      anybody()
        .post('/api/v1/invitations/accept')
        .send({ secret: secretOf(link), account: { ...NEW, password } });
    for (const password of ['eleven char', 'passwordpassword', 'aaaaaaaaaaaa', `${CY}1`, 'password12345']) {
      const res = await accept(password).expect(400);
      expect((res.body as { problems: { path: string }[] }).problems[0]!.path).toBe('account.password');
    }
    await accept(NEW.password).expect(200);
  });

  describe('whose mail did not leave', () => {
    const send = async (who: Agent, email = CY) =>
      (await who.post(`${COURSE}/invitations`).send({ email, role: 'co-instructor' }).expect(201))
        .body as InvitedAnswer;
    beforeEach(() => {
      smtp.answer = { code: 550, at: 'rcpt' };
    });

    test('shows its link to an administrator alone', async () => {
      expect(await send(ada)).toMatchObject({ mailed: false, link: null });
      await inTransaction(stage.orm, (tx) =>
        freely(tx).nativeUpdate(Account, { email: ADA }, { isAdministrator: true }),
      );
      const { link } = await send(ada);
      await anybody()
        .post('/api/v1/invitations/look')
        .send({ secret: secretOf(link!) })
        .expect(200);
    });

    test('makes an account that is unproven: what was added to it ends once a mailed link proves its address', async () => {
      await inTransaction(stage.orm, (tx) =>
        freely(tx).nativeUpdate(Account, { email: ADA }, { isAdministrator: true }),
      );
      const { link } = await send(ada);
      const cy = anybody();
      const accepted = await cy
        .post('/api/v1/invitations/accept')
        .send({ secret: secretOf(link!), account: NEW })
        .expect(200);
      const { id } = (accepted.body as { account: { id: number } }).account;
      // It works in its course, and nowhere else.
      await cy.get(`${COURSE}/rules`).expect(200);
      const details = { code: 'X', title: 'X', timeZone: 'UTC', start: '2026-09-01', end: '2026-12-01' };
      expect(codeOf(await cy.post('/api/v1/courses').send({ details }).expect(403))).toBe('addressNotProven');
      await cy
        .put(`${COURSE}/sender/own`)
        .send({ sender: { name: 'Cy', address: CY, replyTo: CY } })
        .expect(400);
      const em = unguarded(stage.orm);
      await em.nativeUpdate(Access, { account: id }, { role: 'owner' });
      expect(codeOf(await cy.post(`${COURSE}/invitations`).send({ email: 'x@y.example', role: 'owner' }))).toBe(
        'addressNotProven',
      );
      await cy
        .post(`${COURSE}/tokens`)
        .send({ name: 'feed', capabilities: ['data.write'] })
        .expect(201);
      await em.nativeUpdate(Account, { id }, { totp: 'somebody else’s' });

      smtp.answer = 'accept';
      await anybody().post('/api/v1/password/forgotten').send({ email: CY }).expect(204);
      await until(() => smtp.mails.some((m) => m.to.includes(CY)));
      const secret = /password#(\S+)/.exec(smtp.mails.at(-1)!.mail.text!)![1]!;
      await anybody().post('/api/v1/password/new').send({ secret, password: 'another kettle of gulls' }).expect(204);
      await cy.get(`${COURSE}/rules`).expect(401);
      const row = await em.findOneOrFail(Account, { id }, { refresh: true });
      expect([row.isUnproven, row.totp]).toEqual([false, null]);
      expect((await em.findOneOrFail(TokenRow, { madeBy: id })).revokedAt).not.toBeNull();
      const again = anybody();
      await again.post('/api/v1/session').send({ email: CY, password: 'another kettle of gulls' }).expect(200);
      await again.post('/api/v1/courses').send({ details }).expect(201);
    });
  });

  test('is one of twenty an hour that an account may send', async () => {
    await inTransaction(stage.orm, async (tx) => {
      const row = { kind: 'invitation' as const, course: 1, role: 'assistant' as const, by: accountActor(1) };
      for (let i = 0; i < 20; i++)
        freely(tx).create(LinkRow, {
          ...row,
          hash: `h${i}`,
          email: `x${i}@y.example`,
          at: Date.now(),
          endsAt: Date.now() + DAY,
        });
      await freely(tx).flush();
    });
    const refused = await ada.post(`${COURSE}/invitations`).send({ email: CY, role: 'owner' }).expect(429);
    expect(codeOf(refused)).toBe('tooManyInvitations');
    expect(Number(refused.headers['retry-after'])).toBeGreaterThan(3500);
    expect(smtp.mails).toEqual([]);
  });

  test('is made by nobody but an owner, and by no server that does not know its own address', async () => {
    const { link } = await invite(CY);
    const cy = anybody();
    await cy
      .post('/api/v1/invitations/accept')
      .send({ secret: secretOf(link), account: NEW })
      .expect(200);
    await cy.post(`${COURSE}/invitations`).send({ email: 'x@y.example', role: 'owner' }).expect(403);
    const other = await openStage({ now: '2026-09-10T12:00' });
    try {
      const res = await (await other.signIn()).post(`${COURSE}/invitations`).send({ email: CY, role: 'owner' });
      expect([res.status, codeOf(res)]).toEqual([409, 'noPublicAddress']);
    } finally {
      await other.close();
    }
  });
});

describe('roles', () => {
  let bo: Agent;
  const make = async (role: AccessRole) => {
    const em = unguarded(stage.orm);
    const { id } = await em.findOneOrFail(Account, { email: 'bo@saltmarsh.example' });
    em.create(Access, { account: id, course: 1, role });
    await em.flush();
    bo = await stage.signIn('bo@saltmarsh.example');
    return id;
  };

  test('are given by owners, and count at once', async () => {
    const id = await make('observer');
    await bo.get(`${COURSE}/rules`).expect(403);
    await ada.put(`${COURSE}/access/${id}`).send({ role: 'assistant' }).expect(204);
    await bo.get(`${COURSE}/rules`).expect(200);
    await bo.put(`${COURSE}/access/${id}`).send({ role: 'owner' }).expect(403);
    await ada.delete(`${COURSE}/access/${id}`).expect(204);
    await bo.get(`${COURSE}/rules`).expect(404);
    await ada.put(`${COURSE}/access/99`).send({ role: 'owner' }).expect(404);
  });

  test('let an assistant decide on nudges once the course says so', async () => {
    await make('assistant');
    const decide = () => bo.post(`${COURSE}/tray/decide`).send({ nudges: [1], as: 'restore' });
    await decide().expect(403);
    await ada.put(`${COURSE}/access-terms`).send({ assistantsDecide: true }).expect(204);
    await decide().expect(404);
    const { courses } = (await bo.get('/api/v1/session')).body as { courses: { may: Capability[] }[] };
    expect(courses[0]!.may).toContain('nudges.decide');
  });

  test('leave a course with an owner always', async () => {
    const id = await make('co-instructor');
    expect(codeOf(await ada.post(`${COURSE}/access/leave`).send({}).expect(409))).toBe('lastOwner');
    expect(codeOf(await ada.put(`${COURSE}/access/1`).send({ role: 'observer' }).expect(409))).toBe('lastOwner');
    await ada.put(`${COURSE}/access/${id}`).send({ role: 'owner' }).expect(204);
    await ada.post(`${COURSE}/access/leave`).send({}).expect(204);
    await ada.get(`${COURSE}/access`).expect(404);
    expect((await access(bo)).people.map((p) => p.name)).toEqual(['Bo Quist']);
  });
});

describe('a token', () => {
  const make = async (capabilities: Capability[], more: object = {}) =>
    (
      await ada
        .post(`${COURSE}/tokens`)
        .send({ name: 'Dashboard', capabilities, ...more })
        .expect(201)
    ).body as { id: number; secret: string };
  const withToken = (secret: string) => request.agent(stage.app).set('authorization', `Bearer ${secret}`);
  const listed = async () => (await ada.get(`${COURSE}/tokens`).expect(200)).body as TokenLine[];

  test('opens what it may of its own course, without a cookie or an origin, and nothing else', async () => {
    const { secret } = await make(['course.read', 'drafts.write']);
    const program = withToken(secret);
    await program.get(`${COURSE}/rules`).expect(200);
    await program
      .put(`${COURSE}/lookout/pins`)
      .send({ students: ['p1'], pinned: true })
      .expect(204);
    await program.post(`${COURSE}/rules/status`).send({ rules: [], status: 'off' }).expect(403);
    await program.get('/api/v1/courses/2/rules').expect(404);
    await program.get('/api/v1/courses').expect(403);
    await program.get('/api/v1/admin/people').expect(403);
    await program.get(`${COURSE}/tokens`).expect(403);
    await program.post('/api/v1/activity').send({ events: [] }).expect(403);
  });

  test('counts in place of the session where both are sent', async () => {
    const { secret } = await make(['course.read']);
    await ada.get(`${COURSE}/tokens`).set('authorization', `Bearer ${secret}`).expect(403);
    const res = await ada.get(`${COURSE}/tokens`).set('authorization', 'Bearer nothing').expect(401);
    expect(res.headers['www-authenticate']).toMatch(/^Bearer /);
  });

  test('works no more once it was ended, or its day is over, or its maker owns the course no more', async () => {
    const [ended, over, left] = [await make(['course.read']), await make(['course.read']), await make(['course.read'])];
    await ada.delete(`${COURSE}/tokens/${ended.id}`).expect(204);
    const em = unguarded(stage.orm);
    await em.nativeUpdate(TokenRow, { id: over.id }, { endsAt: Date.now() - 1 });
    await withToken(ended.secret).get(`${COURSE}/rules`).expect(401);
    await withToken(over.secret).get(`${COURSE}/rules`).expect(401);
    await withToken(left.secret).get(`${COURSE}/rules`).expect(200);
    // It is noted beside the request, which waits for nothing.
    await until(async () => (await listed())[0]!.usedAt !== null);
    expect((await listed()).map((t) => [t.name, t.state, t.usedAt !== null])).toEqual([
      ['Dashboard', 'works', true],
      ['Dashboard', 'ended', false],
      ['Dashboard', 'revoked', false],
      ['Activity', 'works', false],
    ]);
    const { id } = await em.findOneOrFail(Account, { email: 'bo@saltmarsh.example' });
    em.create(Access, { account: id, course: 1, role: 'owner' });
    await em.flush();
    await ada.put(`${COURSE}/access/1`).send({ role: 'co-instructor' }).expect(204);
    await withToken(left.secret).get(`${COURSE}/rules`).expect(401);
  });

  test('is kept as a hash, and is given nothing that stays with owners', async () => {
    const { id, secret } = await make(['data.write']);
    const row = await unguarded(stage.orm).findOneOrFail(TokenRow, { id });
    expect(JSON.stringify(row)).not.toContain(secret);
    expect(row.hash).toBe(hashOf(secret));
    for (const c of ['access.write', 'tokens.write', 'data.erase'])
      await ada
        .post(`${COURSE}/tokens`)
        .send({ name: 'x', capabilities: [c] })
        .expect(400);
    await ada
      .post(`${COURSE}/tokens`)
      .send({ name: 'x', capabilities: ['course.read'], endsOn: '2020-01-01' })
      .expect(400);
  });

  test('with which a platform tells what people did works as before, under either scheme', async () => {
    const basic = (secret: string) => `Basic ${Buffer.from(`anybody:${secret}`).toString('base64')}`;
    expect((await stage.tell([])).status).toBe(200);
    await request(stage.app)
      .post('/api/v1/activity')
      .set('authorization', basic(TOKEN))
      .send({ events: [] })
      .expect(200);
    const none = await request(stage.app).post('/api/v1/activity').send({ events: [] }).expect(401);
    expect(none.headers['www-authenticate']).toMatch(/^Bearer /);
    const { body } = await ada.post(`${COURSE}/data/secret`).send({ of: 'activity' }).expect(200);
    expect((await stage.tell([])).status).toBe(401);
    await withToken((body as { secret: string }).secret)
      .post('/api/v1/activity')
      .send({ events: [] })
      .expect(200);
  });
});

describe('the log of acts', () => {
  const acts = async (query = '') => (await ada.get(`${COURSE}/acts${query}`).expect(200)).body as ActsAnswer;

  test('says who did what, when and from where, programs by their name, and what only reads not', async () => {
    await ada.get(`${COURSE}/rules`).expect(200);
    await ada
      .put(`${COURSE}/lookout/pins`)
      .send({ students: ['p1'], pinned: true })
      .expect(204);
    await ada
      .put(`${COURSE}/lookout/pins`)
      .send({ students: ['nobody'], pinned: true })
      .expect(404);
    const { body } = await ada.post(`${COURSE}/tokens`).send({ name: 'Board', capabilities: ['drafts.write'] });
    await request(stage.app)
      .put(`${COURSE}/lookout/pins`)
      .set('authorization', `Bearer ${(body as { secret: string }).secret}`)
      .send({ students: ['p1'], pinned: false })
      .expect(204);
    const { acts: lines, people } = await acts();
    expect(lines.map((a) => [a.by, a.act, a.says])).toEqual([
      ['token Board of Ada Lind', 'desk.pins', 'Pin students, or no longer'],
      ['Ada Lind', 'people.makeToken', 'Make a token; its secret is shown once'],
      ['Ada Lind', 'desk.pins', 'Pin students, or no longer'],
    ]);
    expect(lines[0]!.from).toMatch(/127\.0\.0\.1|::1/);
    expect(people).toEqual(['Ada Lind', 'token Board of Ada Lind']);
    await ada.put('/api/v1/account/name').send({ name: 'Ada L. Lind' }).expect(200);
    expect((await acts()).acts[1]!.by).toBe('Ada L. Lind');
  });

  test('is read in pages, by person and by what was done, and goes out as a table', async () => {
    for (let i = 0; i < 5; i++) await ada.put(`${COURSE}/lookout/pins`).send({ students: ['p1'], pinned: i % 2 === 0 });
    await ada.put(`${COURSE}/access-terms`).send({ assistantsDecide: true }).expect(204);
    const first = await acts('?limit=4');
    const rest = await acts(`?limit=4&after=${first.next}`);
    expect([first.acts.length, rest.acts.length, rest.next]).toEqual([4, 2, null]);
    expect((await acts('?act=people')).acts.map((a) => a.act)).toEqual(['people.terms']);
    expect((await acts('?by=Nobody')).acts).toEqual([]);
    const { text } = await ada.get(`${COURSE}/acts/file?act=desk`).expect(200);
    expect(text.split('\r\n').slice(0, 2)).toEqual([
      'When (UTC),Who,What,About,From,Times',
      expect.stringMatching(/^\d{4}-.*,Ada Lind,"Pin students, or no longer",,.*,1$/),
    ]);
  });
});

describe('a forgotten password', () => {
  const ask = (email: string) => anybody().post('/api/v1/password/forgotten').send({ email });
  const linkIn = (n: number) => /\/password#(\S+)/.exec(smtp.mails[n]!.mail.text!)![1]!;
  const mailed = (n: number) => until(() => smtp.mails.length >= n);

  test('is set anew by a link that works once within an hour; every browser is signed out', async () => {
    await ask('ADA@saltmarsh.example').expect(204);
    await mailed(1);
    await ask('ada@saltmarsh.example').expect(204);
    await mailed(2);
    const set = (secret: string, password = NEW.password) =>
      anybody().post('/api/v1/password/new').send({ secret, password });
    await set(linkIn(0)).expect(410);
    await set(linkIn(1), 'password12345').expect(400);
    await set(linkIn(1)).expect(204);
    await set(linkIn(1)).expect(410);
    await ada.get('/api/v1/courses').expect(401);
    await anybody().post('/api/v1/session').send({ email: 'ada@saltmarsh.example', password: PASSWORD }).expect(401);
    await stage.signIn('ada@saltmarsh.example', NEW.password);
    const row = await unguarded(stage.orm).findOneOrFail(LinkRow, { kind: 'password' }, { orderBy: { id: 'desc' } });
    expect(row.endsAt - row.at).toBe(HOUR);
  });

  test('of an address that nobody has is answered alike, and sends nothing', async () => {
    const [known, unknown] = [await ask('ada@saltmarsh.example'), await ask('nobody@saltmarsh.example')];
    expect([known.status, known.text]).toEqual([unknown.status, unknown.text]);
    await mailed(1);
    expect(smtp.mails.map((m) => m.to)).toEqual([['ada@saltmarsh.example']]);
  });
});

describe('sessions of one’s own', () => {
  test('are listed with where they were begun, and ended one by one', async () => {
    const elsewhere = request.agent(stage.app).set({ 'sec-fetch-site': 'same-origin', 'user-agent': 'A telephone' });
    await elsewhere.post('/api/v1/session').send({ email: 'ada@saltmarsh.example', password: PASSWORD }).expect(200);
    type SessionLines = { id: string; browser: string; isThis: boolean }[];
    const lines = (await ada.get('/api/v1/account/sessions').expect(200)).body as SessionLines;
    expect(lines.map((l) => [l.browser, l.isThis])).toContainEqual(['A telephone', false]);
    expect(lines.filter((l) => l.isThis)).toHaveLength(1);
    const other = lines.find((l) => !l.isThis)!;
    const bo = await stage.signIn('bo@saltmarsh.example');
    await bo.delete(`/api/v1/account/sessions/${other.id}`).expect(404);
    await ada.delete(`/api/v1/account/sessions/${other.id}`).expect(204);
    await elsewhere.get('/api/v1/courses').expect(401);
    await ada.get('/api/v1/courses').expect(200);
  });
});
