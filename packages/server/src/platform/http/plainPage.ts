/** A page for somebody who is not in the application: a student, or anyone whom a platform sends. It needs no script and no file. */
import { escapeHtml } from '@zest-bell/core/wording';

const STYLE = `body{font:17px/1.55 system-ui,sans-serif;margin:0;background:#eef2ee;color:#14211d}
main{max-width:34rem;margin:2rem auto;padding:1.5rem;background:#fff;border:1px solid #d9e1db;border-radius:16px}
h1{font-size:1.5rem;line-height:1.2;margin:0 0 .75rem}h2{font-size:1.1rem;margin:1.5rem 0 .5rem}
button,a.button{display:inline-block;font:inherit;font-weight:700;padding:.5rem 1rem;border-radius:11px;border:1px solid #b9c6bd;background:#fff;color:#14211d;text-decoration:none;cursor:pointer}
button.main,a.main{background:#0f4a3c;color:#fff;border-color:#0f4a3c}
form{display:flex;flex-wrap:wrap;gap:.5rem;align-items:center;margin:.75rem 0}
textarea{font:inherit;width:100%;box-sizing:border-box;padding:.4rem .6rem;border:1px solid #b9c6bd;border-radius:9px}
input{font:inherit;padding:.4rem .6rem;border:1px solid #b9c6bd;border-radius:9px}
code{color:#56645d;font-size:.85rem}.said{background:#eef7b8;padding:.5rem .75rem;border-radius:9px}`;

/** `body` is HTML; the title and the heading are text. */
export const plainPage = (title: string, heading: string, body: string): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="robots" content="noindex"><title>${escapeHtml(title)}</title>
<style>
${STYLE}
</style></head><body><main><h1>${escapeHtml(heading)}</h1>
${body}
</main></body></html>`;
