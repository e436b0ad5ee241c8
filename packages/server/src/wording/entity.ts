import { defineEntity, p, type InferEntity } from '@mikro-orm/core';

export const WordingRow = defineEntity({
  name: 'WordingRow',
  tableName: 'wording',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    key: p.string(),
    name: p.string(),
    purpose: p.string(),
    subject: p.text(),
    body: p.text(),
    version: p.integer().default(1),
  },
  uniques: [{ properties: ['course', 'key'] }],
});
export type WordingRow = InferEntity<typeof WordingRow>;
