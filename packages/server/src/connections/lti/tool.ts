/** What the tool says of itself to a platform, as a file and when it registers (LTI 1.3 and Dynamic Registration 1.0, from memory). */
import { SCOPES } from './services.ts';

const NAME = 'Zest Bell';
const DESCRIPTION = 'Notices when students may need help, and writes to them';
/** Parameters that give a course its days, where the platform fills them in. */
const DAYS = { begin: '$CourseSection.timeFrame.begin', end: '$CourseSection.timeFrame.end' };
export const TOOL_CLAIM = 'https://purl.imsglobal.org/spec/lti-tool-configuration';

/** `base`: the tool's own address. */
export const toolFile = (base: string) => ({
  title: NAME,
  description: DESCRIPTION,
  oidc_initiation_url: `${base}/lti/login`,
  target_link_uri: `${base}/lti/launch`,
  redirect_uris: [`${base}/lti/launch`],
  public_jwk_url: `${base}/lti/keys`,
  scopes: SCOPES,
  custom_parameters: DAYS,
});

/** What a tool asks for when it registers: launches by a plain link, and to read who is in a course and what they scored. */
export const toolRegistration = (base: string) => ({
  application_type: 'web',
  response_types: ['id_token'],
  grant_types: ['implicit', 'client_credentials'],
  client_name: NAME,
  initiate_login_uri: `${base}/lti/login`,
  redirect_uris: [`${base}/lti/launch`],
  jwks_uri: `${base}/lti/keys`,
  token_endpoint_auth_method: 'private_key_jwt',
  scope: SCOPES.join(' '),
  [TOOL_CLAIM]: {
    domain: new URL(base).host,
    description: DESCRIPTION,
    target_link_uri: `${base}/lti/launch`,
    custom_parameters: DAYS,
    claims: ['iss', 'sub', 'name', 'given_name', 'family_name', 'email'],
    messages: [{ type: 'LtiResourceLinkRequest', target_link_uri: `${base}/lti/launch` }],
  },
});
