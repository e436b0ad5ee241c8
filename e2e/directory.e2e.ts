/** Signing in where one signs in to everything else: an administrator connects the provider, and people come in by it. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { CLIENT, openProvider, type OpenProvider } from '../packages/server/src/testing/directory/openProvider.ts';
import { openStage, signedIn, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let provider: OpenProvider;
let admin: Scene;

const PETRA = { sub: 'p-1', name: 'Petra Adeyemi', email: 'p.adeyemi@saltmarsh.example', email_verified: true };
const NEW = { sub: 'n-1', name: 'Nell Vane', email: 'n.vane@saltmarsh.example', email_verified: true };

beforeAll(async () => {
  stage = await openStage();
  provider = await openProvider([`${stage.base}/oidc/callback`]);
  admin = await signedIn(stage, 'r.ostrander');
  await admin.see('body', /Today/);
});
afterAll(async () => {
  expect(admin.complaints).toEqual([]);
  await stage.stop();
  await provider.close();
});

const fill = async (label: string, words: string) => {
  const field = await admin.page.waitForSelector(`aria/${label}`);
  await field!.click({ count: 3 });
  await field!.type(words);
};

const CARD = 'section[aria-label="Sign-in of your institution"]';

test('an administrator connects the provider; a wrong issuer is named at its field', async () => {
  await admin.go(`${stage.base}/admin`);
  await admin.see(CARD, /Address to send people back to: http.*\/oidc\/callback/);
  await fill('Issuer', 'http://127.0.0.1:9');
  await fill('What the button says after “Sign in with”', 'Saltmarsh College');
  await fill('Client id', CLIENT.clientId);
  await fill('Secret', CLIENT.secret);
  await admin.clickText('Connect', `${CARD} button`);
  await admin.see(CARD, /No provider answers there/);
  await fill('Issuer', provider.issuer);
  await admin.clickText('Connect', `${CARD} button`);
  await admin.see('body', /People can now sign in with Saltmarsh College/);
  admin.complaints.length = 0;
});

test('somebody with an account comes in by it, and is offered to sign out there as well', async () => {
  await provider.orders({ person: PETRA });
  const scene = await stage.open('/account', { apart: true });
  await scene.clickText('Sign in with Saltmarsh College', 'button');
  await scene.see('main', /You are signed in as p\.adeyemi@saltmarsh\.example with Saltmarsh College\./);
  await scene.clickText('Sign out', 'button');
  await scene.see('main', /You are signed out of Zest Bell. You may still be signed in at Saltmarsh College/);
  const to = await scene.page.$eval('a[href="/oidc/sign-out"]', (a) => a.href);
  expect((await fetch(to, { redirect: 'manual' })).headers.get('location')).toContain(`${provider.issuer}/session/end`);
});

test('somebody without one reads what to do, and comes in once an administrator lets faculty in', async () => {
  await provider.orders({ person: { ...NEW, affiliation: ['faculty'] } });
  const scene = await stage.open('/', { apart: true });
  await scene.clickText('Sign in with Saltmarsh College', 'button');
  await scene.see('main', /You have no account here\. Ask the person who runs Zest Bell\./);
  await admin.clickText('also everybody with this value of a claim', `${CARD} label`);
  await admin.clickText('Save', `${CARD} button`);
  await admin.see('body', /People can now sign in with Saltmarsh College/);
  await scene.clickText('To Zest Bell', 'a');
  await scene.clickText('Sign in with Saltmarsh College', 'button');
  await scene.see('body', /No course yet/);
});

test('an address that the provider has not verified needs the password of the older account once', async () => {
  const person = { sub: 'i-1', name: 'I. Benedek', email: 'i.benedek@saltmarsh.example', email_verified: false };
  await provider.orders({ person });
  const scene = await stage.open('/account', { apart: true });
  await scene.clickText('Sign in with Saltmarsh College', 'button');
  await scene.see('main', /There is already an account for i\.benedek@saltmarsh\.example here/);
  await scene.type('input[name=password]', 'high-water-0914');
  await scene.clickText('Continue', 'button');
  await scene.see('main', /You are signed in as i\.benedek@saltmarsh\.example with Saltmarsh College\./);
});

test('with passwords turned off, only administrators find where to type one', async () => {
  await admin.clickText('Turn passwords off for everybody but administrators', `${CARD} label`);
  await admin.clickText('Save', `${CARD} button`);
  await admin.see('body', /People can now sign in with Saltmarsh College/);
  const scene = await stage.open('/', { apart: true });
  await scene.see('main', /Administrators can sign in with a password/);
  expect(await scene.page.$eval('input[name=password]', (e) => e.checkVisibility())).toBe(false);
  await scene.clickText('Administrators can sign in with a password', 'summary');
  await scene.type('input[name=email]', 'p.adeyemi@saltmarsh.example');
  await scene.type('input[name=password]', 'high-water-0914');
  await scene.clickText('Sign in', 'form button');
  await scene.see('main', /Passwords are turned off here\. Use your institution’s sign-in\./);
});
