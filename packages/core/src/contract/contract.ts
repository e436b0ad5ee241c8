/** Every request of the application, by the module that serves it. */
import { access } from './access.ts';
import { carry } from './carry.ts';
import { connections } from './connections.ts';
import { course } from './course.ts';
import { demo } from './demo.ts';
import { desk } from './desk.ts';
import { erasure } from './erasure.ts';
import { exports } from './exports.ts';
import { intake } from './intake.ts';
import { mail } from './mail.ts';
import { admin, people } from './people.ts';
import { rounds } from './rounds.ts';
import { rules } from './rules.ts';
import { sets } from './sets.ts';
import { shelf } from './shelf.ts';
import { term } from './term.ts';
import { wording } from './wording.ts';

export const contract = {
  access,
  people,
  admin,
  course,
  wording,
  rules,
  mail,
  rounds,
  intake,
  connections,
  desk,
  carry,
  sets,
  shelf,
  exports,
  erasure,
  term,
  demo,
};
