/** The page that shows the published interface, and the schemas of its answers, which `npm run answers` reads off their types. */
import { dirname, join } from 'node:path';
import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { Router } from 'express';
import type { AnswerSchemas } from '@zest-bell/core/contract';

const DIST = dirname(createRequire(import.meta.url).resolve('swagger-ui-dist/package.json'));
const FILES = ['swagger-ui.css', 'swagger-ui-bundle.js'] as const;

const PAGE = `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<title>Zest Bell: what programs can ask for</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<link rel="stylesheet" href="/api/docs/swagger-ui.css">
<main id="ui"></main>
<script src="/api/docs/swagger-ui-bundle.js"></script>
<script src="/api/docs/begin.js"></script>
</html>
`;
const BEGIN = `SwaggerUIBundle({ url: '/api/openapi.json', dom_id: '#ui', docExpansion: 'none', tryItOutEnabled: false, supportedSubmitMethods: [] });\n`;

export function docsPage(): Router {
  const router = Router();
  router.get('/api/docs', (_req, res) => void res.type('html').send(PAGE));
  router.get('/api/docs/begin.js', (_req, res) => void res.type('js').send(BEGIN));
  for (const name of FILES)
    router.get(
      `/api/docs/${name}`,
      (_req, res) => void res.set('cache-control', 'public, max-age=86400').sendFile(join(DIST, name)),
    );
  return router;
}

export const ANSWERS = JSON.parse(readFileSync(new URL('./answers.json', import.meta.url), 'utf8')) as AnswerSchemas;
