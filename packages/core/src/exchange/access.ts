/** What is said about who has access, what they did, and how programs come in. Instants are epoch ms by the real clock. */
import type { AccessRole, Capability } from '../access/capabilities.ts';
import type { Instant } from '../time/instant.ts';

export interface PersonWithAccess {
  readonly account: number;
  readonly name: string;
  readonly email: string;
  readonly role: AccessRole;
  readonly isYou: boolean;
}

export interface OpenInvitation {
  readonly id: number;
  readonly email: string;
  readonly role: AccessRole;
  readonly by: string;
  readonly at: Instant;
  readonly endsAt: Instant;
}

export interface AccessAnswer {
  readonly people: readonly PersonWithAccess[];
  /** Those that nobody has accepted yet; none for those who may not invite. */
  readonly invitations: readonly OpenInvitation[];
  readonly assistantsDecide: boolean;
  /** Addresses of the roster’s instructors and assistants who have an account or could be invited, and have no access yet. */
  readonly onRoster: readonly { readonly name: string; readonly email: string }[];
}

export interface InvitedAnswer {
  readonly id: number;
  /** Whether the mail server took it. */
  readonly mailed: boolean;
  /** To be passed on by hand: null unless no mail left and an administrator invited. */
  readonly link: string | null;
}

/** What an invitation says to anyone who holds its link. */
export interface InvitationView {
  readonly email: string;
  readonly role: AccessRole;
  readonly by: string;
  readonly course: { readonly id: number; readonly code: string; readonly title: string };
  /** Whether its address has an account already. */
  readonly hasAccount: boolean;
  readonly endsAt: Instant;
}

export interface TokenLine {
  readonly id: number;
  readonly name: string;
  readonly capabilities: readonly Capability[];
  readonly by: string;
  readonly at: Instant;
  readonly endsAt: Instant | null;
  readonly usedAt: Instant | null;
  readonly state: 'works' | 'ended' | 'revoked';
}

export interface ActLine {
  readonly id: number;
  readonly at: Instant;
  readonly by: string;
  /** As the contract names the request. */
  readonly act: string;
  /** In a few words. */
  readonly says: string;
  /** How often, where alike acts within a quarter of an hour are one line. */
  readonly count: number;
  /** The ids that it was about. */
  readonly about: Readonly<Record<string, string>>;
  readonly from: string;
  /** What the course is called; null for what is about none, or for the log of one course. */
  readonly course: string | null;
}

/** “rule quiet, round 7” */
export const aboutWords = (about: ActLine['about']): string =>
  Object.entries(about)
    .map(([kind, id]) => `${kind} ${id}`)
    .join(', ');

export interface ActsAnswer {
  readonly acts: readonly ActLine[];
  /** The id to ask on from; null at the end. */
  readonly next: number | null;
  /** Who is in the log, to choose from; of the first page alone. */
  readonly people: readonly string[];
}

/** What the field of an address says that nobody has proven: the screen offers a code there. */
export const NOT_PROVEN = 'This address is not proven yet.';

/** An address that an account has shown to be its own. */
export interface ProvenAddress {
  readonly address: string;
  readonly at: Instant;
}

/** A sender from before addresses had to be proven; it keeps working until an address in it changes. */
export interface UnprovenSender {
  readonly course: { readonly id: number; readonly code: string; readonly title: string };
  /** The people for whom it could be accepted: its signer, or an owner of the course. */
  readonly account: { readonly id: number; readonly name: string };
  readonly name: string;
  /** Those of its addresses that are not proven. */
  readonly addresses: readonly string[];
}

export interface SessionLine {
  readonly id: string;
  readonly since: Instant;
  readonly seenAt: Instant;
  readonly from: string;
  readonly browser: string;
  readonly isThis: boolean;
}

export interface FactorsAnswer {
  readonly totp: boolean;
  readonly recoveryCodes: number;
  readonly passkeys: readonly {
    readonly id: number;
    readonly name: string;
    readonly at: Instant;
    readonly usedAt: Instant | null;
  }[];
  /** Whether the installation wants one of everybody. */
  readonly isRequired: boolean;
}

export const FACTORS = ['totp', 'passkey'] as const;
export type Factor = (typeof FACTORS)[number];

/** Who is signed in, and what they may where. */
export interface SessionAnswer {
  readonly account: {
    readonly id: number;
    readonly name: string;
    readonly email: string;
    /** Seconds that what they send by hand waits; 0 for none. */
    readonly sendDelay: number;
    /** Whether they keep the whole installation. */
    readonly isAdministrator: boolean;
    /** Whether they have taken the tour, or left it. */
    readonly tourOver: boolean;
    /** Whether they can sign in with a password. */
    readonly hasPassword: boolean;
    /** How they signed in this time. */
    readonly cameBy: SignInWay;
    /** Whether this is the account of a launch, which its owner may join to another of theirs. */
    readonly mayJoin: boolean;
  } | null;
  /** The courses in which they have a part, and what they may in each. */
  readonly courses: readonly {
    readonly id: number;
    readonly code: string;
    readonly title: string;
    readonly role: AccessRole;
    readonly may: readonly Capability[];
  }[];
  /** What is still to be shown before somebody is signed in; not there where nothing is. */
  readonly needs?: readonly Factor[];
  /** The address of an older account that somebody who came by the directory has yet to prove by its password; not there where nobody has. */
  readonly toProve?: string;
  /** The institution’s own sign-in, where it is connected. */
  readonly directory: DirectoryView | null;
  /** Whether a second factor has to be set up before anything else. */
  /** Whether the installation lets them make courses; their address must be proven as well. */
  readonly mayMakeCourses: boolean;
  readonly mustSetFactor: boolean;
  readonly demo: boolean;
  readonly needsFirstAccount: boolean;
  /** Whether the first account takes the code that the server printed. */
  readonly needsFirstCode: boolean;
}

/** By a password, by the institution’s own sign-in, or out of a learning platform. */
export const SIGN_IN_WAYS = ['password', 'directory', 'launch'] as const;
export type SignInWay = (typeof SIGN_IN_WAYS)[number];

/** The institution’s own sign-in (OpenID Connect), as everybody sees it. */
export interface DirectoryView {
  /** As its button says it: “Sign in with …”. */
  readonly name: string;
  /** Whether only administrators may use passwords. */
  readonly passwordsOff: boolean;
  /** Whether this browser came by it, and can be signed out there as well. */
  readonly canSignOut: boolean;
}

/** Who may come in by the directory beside people with an account or an invitation: everybody with a value of a claim. */
export interface DirectoryAdmission {
  readonly claim: string;
  readonly value: string;
}

/** What an administrator decides about the directory. */
export interface DirectoryTerms {
  readonly name: string;
  readonly trustsAddresses: boolean;
  readonly admits: DirectoryAdmission | null;
  /** Context classes of which the provider must name one; empty for any. */
  readonly acr: readonly string[];
  /** Methods of which the provider must name one; empty for any. */
  readonly amr: readonly string[];
  readonly passwordsOff: boolean;
}

export interface DirectoryAnswer extends DirectoryTerms {
  /** Empty where no provider is connected. */
  readonly issuer: string;
  readonly clientId: string;
  readonly hasSecret: boolean;
  /** Whether the server’s own settings name the provider: it is shown, and not changed on the page. */
  readonly isFixed: boolean;
  /** The address that the provider has to allow; null while nobody has named the address of Zest Bell. */
  readonly callback: string | null;
}

export interface AdminPerson {
  readonly account: number;
  readonly name: string;
  readonly email: string;
  readonly isAdministrator: boolean;
  readonly isYou: boolean;
  readonly courses: number;
  readonly factors: readonly Factor[];
  readonly seenAt: Instant | null;
  /** Whom it was joined to: its owner signs in as that account. */
  readonly joinedTo: string | null;
}

export interface AdminCourse {
  readonly id: number;
  readonly code: string;
  readonly title: string;
  readonly owners: readonly string[];
  readonly students: number;
  readonly rulesOn: number;
  readonly isArchived: boolean;
  readonly isStopped: boolean;
}

/** Trouble of a machine that Zest Bell runs on: little room on its disk, the port for replies taken, a clock that was set. */
export const MACHINE_TROUBLES = ['disk', 'replyPort', 'clock'] as const;
export type MachineTrouble = (typeof MACHINE_TROUBLES)[number];

export interface AdminTrouble {
  /** Its code; null for what is about all courses. */
  readonly course: string | null;
  readonly kind: 'mail' | 'round' | 'stopped' | 'stale' | MachineTrouble;
  /** Null where nobody knows. */
  readonly since: Instant | null;
  /** In the words of the mail server, or of what went wrong; empty where the kind says all. */
  readonly says: string;
}

export interface InstallationSettings {
  /** Whether everybody needs a second factor. */
  readonly factorRequired: boolean;
  /** Months after a course’s end that what is known of its students is kept. */
  readonly keepMonths: number;
  /** What the institution is called, where its shelf is shown; empty where nobody has said. */
  readonly name: string;
  /** Accounts that may put things on the shelf, beside administrators. */
  readonly shelfKeepers: readonly number[];
  /** Who carries invitations, passwords, notices and summaries; null where nobody has said. */
  readonly sender: InstallationSender | null;
  /** Domains (`uni.example`, `*.uni.example` with those below it) and addresses that mail may come from; empty for any proven one. */
  readonly senderDomains: readonly string[];
  readonly coursesBy: CourseMakers;
  /** Accounts that may make courses, where only those named may. */
  readonly courseMakers: readonly number[];
}

export interface InstallationSender {
  readonly name: string;
  readonly address: string;
}

/** Who may make courses: everybody with a proven address, those named, or administrators alone. */
export const COURSE_MAKERS = ['proven', 'named', 'administrators'] as const;
export type CourseMakers = (typeof COURSE_MAKERS)[number];

/** What holds, and what of it the server's own settings say: that is shown, and not changed on the page. */
export interface InstallationAnswer extends InstallationSettings {
  readonly fixed: readonly ('sender' | 'senderDomains')[];
}
