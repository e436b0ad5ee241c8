/** The platform's own page: its courses, who opens the tool there, and what is to go wrong. */
import { FAULTS, FAULT_WORDS, type PlatformFault } from './faults.ts';
import { LAUNCH_ROLES } from './classRoster.ts';

/** Somebody who may press a link of its page. */
export interface Launcher {
  readonly sub: string;
  readonly name: string;
  readonly email: string;
  readonly roles: readonly string[];
}

export interface PlatformContext {
  readonly id: string;
  readonly label: string;
  readonly title: string;
  readonly launchers: readonly Launcher[];
}

export const escaped = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

const roleWords = ({ roles }: Launcher): string =>
  roles.includes(LAUNCH_ROLES.assistant)
    ? 'assistant'
    : roles.includes(LAUNCH_ROLES.instructor)
      ? 'instructor'
      : 'student';

export interface FrontPage {
  readonly contexts: readonly PlatformContext[];
  readonly tool: string;
  readonly issuer: string;
  readonly clientId: string;
  readonly faults: ReadonlySet<PlatformFault>;
}

export function frontPage({ contexts, tool, issuer, clientId, faults }: FrontPage): string {
  const link = (context: PlatformContext, launcher: Launcher) => {
    const fields = {
      iss: issuer,
      login_hint: `${context.id} ${launcher.sub}`,
      target_link_uri: `${tool}/lti/launch`,
      client_id: clientId,
    };
    const role = roleWords(launcher);
    const inputs = Object.entries(fields).map(
      ([key, value]) => `<input type="hidden" name="${key}" value="${escaped(value)}">`,
    );
    return `<form method="post" action="${escaped(`${tool}/lti/login`)}" data-of="${escaped(`${context.id} ${role}`)}">${inputs.join('')}<button>Open as ${role}: ${escaped(launcher.name)}</button></form>`;
  };
  const boxes = FAULTS.map(
    (fault) =>
      `<label><input type="checkbox" name="fault" value="${fault}"${faults.has(fault) ? ' checked' : ''}> ${escaped(FAULT_WORDS[fault])}</label>`,
  );
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>The campus</title>
<style>body{font:17px/1.5 system-ui,sans-serif;max-width:42rem;margin:2rem auto;padding:0 1rem;color:#14211d;background:#fff}form{margin:.5rem 0}label{display:block;margin:.3rem 0}button{font:inherit;padding:.4rem .9rem}</style>
<main><h1>The campus</h1><p>This page stands for a learning platform. Its links open Zest Bell as the platform would.</p>
${contexts.map((c) => `<h2>${escaped(c.label)} ${escaped(c.title)}</h2>${c.launchers.map((l) => link(c, l)).join('')}`).join('')}
<h2>What is to go wrong</h2><form method="post" action="/faults">${boxes.join('')}<button>Save</button></form>
<h2>Register a tool</h2><form action="/register"><label>The address that its administrator was given <input name="address" type="url" required size="60"></label><button>Register</button></form></main></html>`;
}
