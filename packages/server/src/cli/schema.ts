/** Writes the published JSON Schema of the scenario format: `npm run schema`. */
import { writeFileSync } from 'node:fs';
import { scenarioJsonSchema } from '@zest-bell/core/scenario';

const file = new URL('../../../../docs/scenario.schema.json', import.meta.url);
writeFileSync(file, `${JSON.stringify(scenarioJsonSchema(), null, 2)}\n`);
