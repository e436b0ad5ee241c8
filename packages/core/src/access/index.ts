export {
  ACCESS_ROLES,
  CAPABILITIES,
  capabilitiesOf,
  OWNERS_ALONE,
  TOKEN_CAPABILITIES,
  type AccessRole,
  type AccessTerms,
  type Capability,
} from './capabilities.ts';
export { accountActor, accountOf, namedActor, refOf, tokenActor, type Actor, type ActorRef } from './actor.ts';
export { FEWEST, safeCount, safeGroups, safeShare, shareOfShare, type SafeCount, type SafeShare } from './fewerThan.ts';
