/** Holds every JSON answer of the application to what its contract says it is. */
import { Ajv2020 } from 'ajv/dist/2020.js';
import type { ValidateFunction } from 'ajv';
import type { RequestHandler } from 'express';
import { API_BASE, endpoints } from '@zest-bell/core/contract';
import { ANSWERS } from '../access/docs.ts';

const ajv = new Ajv2020({ strict: false, allErrors: true });
ajv.addSchema({ $id: 'contract', components: { schemas: ANSWERS.schemas } });

const known = endpoints.flatMap(({ module, name, endpoint }) => {
  const answer = ANSWERS.answers[`${module}.${name}`];
  if (answer === undefined || endpoint.answer.form !== 'json') return [];
  const path = new RegExp(`^${API_BASE}${endpoint.path.replace(/\{\w+\}/g, '[^/]+')}$`);
  const literals = endpoint.path.split('/').filter((part) => !part.startsWith('{')).length;
  const schema = JSON.parse(JSON.stringify(answer).replaceAll('"#/components', '"contract#/components')) as object;
  return [{ name: `${module}.${name}`, method: endpoint.method, path, literals, schema }];
});
// Of two that fit, the one that names more of its path: “/rules/status” is no rule.
known.sort((a, b) => b.literals - a.literals);

const compiled = new Map<string, ValidateFunction>();
function validatorOf({ name, schema }: (typeof known)[number]): ValidateFunction {
  const validate = compiled.get(name) ?? ajv.compile(schema);
  compiled.set(name, validate);
  return validate;
}

/** Answers with an error of its own in place of what the contract does not say. */
export const holdsToContract: RequestHandler = (req, res, next) => {
  const { path } = req;
  const found = known.find((k) => k.method === req.method && k.path.test(path));
  const send = res.json.bind(res);
  res.json = (body: unknown) => {
    if (!found || res.statusCode >= 400) return send(body);
    const validate = validatorOf(found);
    // As it leaves: what JSON leaves out is out.
    if (validate(JSON.parse(JSON.stringify(body)))) return send(body);
    const why = ajv.errorsText(validate.errors?.slice(0, 5));
    return res.status(599).type('text').send(`${found.name} is not what the contract says: ${why}`);
  };
  next();
};
