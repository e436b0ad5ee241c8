// What each request answers, as JSON Schema: read off the types that the server and the browser are compiled with, so that nobody
// writes them down twice. `npm run answers` writes them, with --check it says whether they are those of now.
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { root } from './steps.mjs';

const FILE = join(root, 'packages/server/src/access/answers.json');
const CONTRACT = join(root, 'packages/core/src/contract/contract.ts');

const config = ts.getParsedCommandLineOfConfigFile(
  join(root, 'packages/core/tsconfig.json'),
  {},
  {
    ...ts.sys,
    onUnRecoverableConfigFileDiagnostic: (d) => {
      throw new Error(ts.flattenDiagnosticMessageText(d.messageText, ' '));
    },
  },
);
const program = ts.createProgram([CONTRACT], { ...config.options, noEmit: true });
const checker = program.getTypeChecker();
const source = program.getSourceFile(CONTRACT);
const exported = checker.getExportsOfModule(checker.getSymbolAtLocation(source));
const contract = exported.find((s) => s.name === 'contract');

/** Types with a name of their own, each once. */
const named = new Map();
const names = new Map();

const propertiesOf = (type) => checker.getPropertiesOfType(type);
const typeOf = (symbol) => checker.getTypeOfSymbolAtLocation(symbol, source);
const is = (type, flags) => (type.flags & flags) !== 0;

function schemaOf(type, at) {
  if (is(type, ts.TypeFlags.Any | ts.TypeFlags.Unknown)) return {};
  if (type.isUnion()) return namedOnce(type.aliasSymbol ? nameOf(type) : null, () => unionOf(type, at));
  if (is(type, ts.TypeFlags.Null)) return { type: 'null' };
  if (type.isStringLiteral() || type.isNumberLiteral()) return { const: type.value };
  if (is(type, ts.TypeFlags.BooleanLiteral)) return { const: checker.typeToString(type) === 'true' };
  if (is(type, ts.TypeFlags.StringLike)) return { type: 'string' };
  if (is(type, ts.TypeFlags.NumberLike)) return { type: 'number' };
  if (is(type, ts.TypeFlags.BooleanLike)) return { type: 'boolean' };
  if (checker.isTupleType(type)) {
    const parts = checker.getTypeArguments(type);
    return { type: 'array', prefixItems: parts.map((p, i) => schemaOf(p, `${at}[${i}]`)), minItems: parts.length };
  }
  if (checker.isArrayType(type))
    return { type: 'array', items: schemaOf(checker.getTypeArguments(type)[0], `${at}[]`) };
  if (type.isIntersection() && type.types.some((t) => is(t, ts.TypeFlags.NumberLike))) return { type: 'number' };
  if (type.isIntersection() && type.types.some((t) => is(t, ts.TypeFlags.StringLike))) return { type: 'string' };
  if (is(type, ts.TypeFlags.Object | ts.TypeFlags.Intersection)) return objectOf(type, at);
  throw new Error(`${at}: ${checker.typeToString(type)} is nothing that JSON can say`);
}

function unionOf(type, at) {
  const parts = type.types.filter((t) => !is(t, ts.TypeFlags.Undefined));
  const literals = parts.filter((t) => t.isStringLiteral() || t.isNumberLiteral());
  const booleans = parts.filter((t) => is(t, ts.TypeFlags.BooleanLiteral));
  const others = parts.filter((t) => !literals.includes(t) && !(booleans.length === 2 && booleans.includes(t)));
  const all = [
    ...(literals.length > 0 ? [{ enum: literals.map((t) => t.value).toSorted() }] : []),
    ...(booleans.length === 2 ? [{ type: 'boolean' }] : []),
    ...others.map((t) => schemaOf(t, at)),
  ];
  return all.length === 1 ? all[0] : { anyOf: all };
}

function objectOf(type, at) {
  if (checker.getSignaturesOfType(type, ts.SignatureKind.Call).length > 0) throw new Error(`${at} is a function`);
  const name = nameOf(type);
  return namedOnce(name, () => shapeOf(type, name ?? at));
}

/** What has a name is written once, under it, whatever it holds itself. */
function namedOnce(name, make) {
  if (name === null) return make();
  if (!named.has(name)) {
    named.set(name, null);
    named.set(name, make());
  }
  return { $ref: `#/components/schemas/${name}` };
}

/** The name of an interface or an alias that is not made of others; null where it has none. */
function nameOf(type) {
  const symbol = type.aliasSymbol ?? type.symbol;
  const isPlain = (type.aliasTypeArguments ?? []).length === 0 && (type.typeArguments ?? []).length === 0;
  if (!symbol || !isPlain || symbol.name.startsWith('__')) return null;
  const from = symbol.declarations?.[0]?.getSourceFile().fileName ?? '';
  if (!from.startsWith(join(root, 'packages')))
    return ['Map', 'Set', 'Date'].includes(symbol.name) ? fail(symbol.name) : null;
  const known = names.get(symbol.name) ?? symbol;
  names.set(symbol.name, known);
  return known === symbol ? symbol.name : `${symbol.name}2`;
}

function fail(name) {
  throw new Error(`${name} cannot be sent as JSON`);
}

function shapeOf(type, at) {
  const index = checker.getIndexInfosOfType(type)[0];
  const properties = {};
  const required = [];
  for (const p of propertiesOf(type)) {
    const own = typeOf(p);
    const isOptional = (p.flags & ts.SymbolFlags.Optional) !== 0;
    properties[p.name] = schemaOf(own.isUnion() ? own : (checker.getNonOptionalType?.(own) ?? own), `${at}.${p.name}`);
    if (!isOptional && !(own.isUnion() && own.types.some((t) => is(t, ts.TypeFlags.Undefined)))) required.push(p.name);
  }
  return {
    type: 'object',
    ...(Object.keys(properties).length > 0 ? { properties } : {}),
    ...(required.length > 0 ? { required } : {}),
    ...(index ? { additionalProperties: schemaOf(index.type, `${at}{}`) } : {}),
  };
}

const answers = {};
for (const module of propertiesOf(typeOf(contract))) {
  for (const endpoint of propertiesOf(typeOf(module))) {
    const answer = checker.getPropertyOfType(typeOf(endpoint), 'answer');
    const of = checker.getPropertyOfType(typeOf(answer), 'of');
    const type = typeOf(of);
    const parts = type.isUnion() ? type.types.filter((t) => !is(t, ts.TypeFlags.Undefined)) : [type];
    if (parts.every((t) => is(t, ts.TypeFlags.Undefined))) continue;
    answers[`${module.name}.${endpoint.name}`] = schemaOf(type, `${module.name}.${endpoint.name}`);
  }
}
/** A line each, so that a change is seen as one. */
const lines = (all) =>
  all
    .toSorted(([a], [b]) => (a < b ? -1 : 1))
    .map(([name, schema]) => `"${name}":${JSON.stringify(schema)}`)
    .join(',\n');
const text = `{"schemas":{\n${lines([...named])}\n},"answers":{\n${lines(Object.entries(answers))}\n}}\n`;
if (!process.argv.includes('--check')) writeFileSync(FILE, text);
else if (readFileSync(FILE, 'utf8') !== text) {
  console.error('What requests answer has changed. Run `npm run answers`.');
  process.exit(1);
}
