/** Pages of a launch: a refusal in plain words, and what a frame needs that keeps no cookie. They work without scripts but for storage. */
import { escapeHtml } from '@zest-bell/core/wording';
import { plainPage } from '../../platform/http/plainPage.ts';
import type { LaunchRefused } from './message.ts';
import type { RegistrationRefused } from './registration.ts';

const page = (title: string, body: string): string => plainPage(title, title, body);

export const refusalPage = ({ code, message, again }: LaunchRefused): string =>
  page(
    'Zest Bell could not be opened',
    `<p>${escapeHtml(message)}</p>
${again === null ? '' : `<p><a class="button main" target="_blank" rel="noopener" href="${escapeHtml(again)}">Open in a new window</a></p>`}
<p><code>${code}</code></p>`,
  );

/** Keeps a text with the platform, for a frame in which cookies are blocked (LTI Client Side postMessages). */
export const keepingPage = (to: string, stored: string, key: string, target: string): string =>
  page(
    'Opening Zest Bell …',
    `<p id="storage" data-put="${escapeHtml(stored)}" data-key="${escapeHtml(key)}" data-target="${escapeHtml(target)}" data-origin="${escapeHtml(new URL(to).origin)}" data-to="${escapeHtml(to)}">One moment.</p>
<p><a class="button main" href="${escapeHtml(to)}">Continue</a></p><script src="/lti/storage.js"></script>`,
  );

/** Asks for it back, and repeats the launch with the answer. */
export const storageRequestPage = (parts: {
  idToken: string;
  state: string;
  key: string;
  origin: string;
  again: string;
}): string =>
  page(
    'Opening Zest Bell …',
    `<form id="storage" method="post" action="/lti/launch" data-get="${escapeHtml(parts.key)}" data-origin="${escapeHtml(parts.origin)}">
<input type="hidden" name="id_token" value="${escapeHtml(parts.idToken)}"><input type="hidden" name="state" value="${escapeHtml(parts.state)}">
<input type="hidden" name="stored" value=""></form>
<p>One moment.</p><p><a class="button main" target="_blank" rel="noopener" href="${escapeHtml(parts.again)}">Open in a new window</a></p>
<script src="/lti/storage.js"></script>`,
  );

export const openPage = (to: string): string =>
  page(
    'Zest Bell is ready',
    `<p>Your browser keeps no cookie in this frame, so Zest Bell opens in a window of its own.</p>
<p><a class="button main" target="_blank" rel="noopener" href="${escapeHtml(to)}">Open Zest Bell</a></p>`,
  );

/** What the platform shows once it has registered itself; it may close the page then. */
export const registeredPage = (origin: string): string =>
  page(
    'Zest Bell is registered here',
    `<p>An administrator of Zest Bell still has to let this platform open it: under This installation, Learning platforms.</p>
<p id="registered" data-origin="${escapeHtml(origin)}">You can close this page.</p><script src="/lti/close.js"></script>`,
  );

export const unregisteredPage = ({ code, message }: RegistrationRefused): string =>
  page('Zest Bell was not registered', `<p>${escapeHtml(message)}</p><p><code>${code}</code></p>`);

/** Tells the platform that its page may be closed, once somebody has read it. */
export const CLOSE_SCRIPT = `(() => {
  const at = document.getElementById('registered');
  const to = window.opener || (window.parent === window ? null : window.parent);
  if (!to) return;
  const button = document.createElement('button');
  button.type = 'button';
  button.textContent = 'Close';
  button.addEventListener('click', () => to.postMessage({ subject: 'org.imsglobal.lti.close' }, at.dataset.origin));
  at.replaceChildren(button);
})();
`;

export interface StudentParts {
  readonly course: string;
  readonly firstName: string;
  /** Null for somebody who is not on the roster yet. */
  readonly paused: boolean | null;
  readonly lookedAt: readonly string[];
  readonly said: string | null;
}

export const studentPage = ({ course, firstName, paused, lookedAt, said }: StudentParts): string =>
  page(
    `Messages from ${course}`,
    `${said === null ? '' : `<p class="said" role="status">${escapeHtml(said)}</p>`}
<p>${firstName === '' ? '' : `${escapeHtml(firstName)}, `}your instructor uses Zest Bell to notice when somebody may need help, and to write to them.</p>
<h2>What it looks at</h2>
${
  lookedAt.length === 0
    ? '<p>Nothing yet: no rule of this course is on.</p>'
    : `<ul>${lookedAt.map((l) => `<li>${escapeHtml(l)}</li>`).join('')}</ul>`
}
${
  paused === null
    ? '<p>You are not on its roster yet.</p>'
    : `<h2>Your choice</h2><p>${paused ? 'You have paused such messages.' : 'You get such messages.'} Essential messages still arrive, for example when your place in the course is at risk.</p>
<form method="post" action="/lti/student"><button class="main" name="paused" value="${paused ? 'no' : 'yes'}">${paused ? 'Get these messages again' : 'Pause until the end of the term'}</button></form>`
}`,
  );

export const waitingPage = page(
  'Zest Bell is not open here yet',
  '<p>An instructor of this course opens it first. Come back after that.</p>',
);
export const takenAwayPage = page(
  'You have no access here',
  '<p>An owner of this course took your access away. Ask them to give it back.</p>',
);

/** What the two pages of storage run. */
export const STORAGE_SCRIPT = `(() => {
  const at = document.getElementById('storage');
  const { put, get, key, target, origin, to } = at.dataset;
  const frame = target && target !== '_parent' ? window.parent.frames[target] || window.parent : window.parent;
  const id = String(Math.random());
  const done = (value) => {
    if (to) location.href = to;
    else if (value) { at.elements.stored.value = value; at.submit(); }
  };
  window.addEventListener('message', (e) => {
    if (e.origin !== origin || !e.data || e.data.message_id !== id) return;
    done(e.data.value);
  });
  frame.postMessage(put ? { subject: 'lti.put_data', message_id: id, key, value: put } : { subject: 'lti.get_data', message_id: id, key: get }, origin);
  if (to) setTimeout(done, 2000);
})();
`;
