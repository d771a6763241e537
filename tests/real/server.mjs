// A real authorization server for the tests: node server.mjs FOLDER
// FOLDER holds server.pem and server-key.pem for TLS, and ps256.pem, es256.pem, tls.pem, the certificates of clients.
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { createServer } from 'node:https';
import { X509Certificate } from 'node:crypto';
import Provider from 'oidc-provider';

const [folder] = process.argv.slice(2);
const read = (name) => readFileSync(`${folder}/${name}`, 'utf8');
const certificate = (name) => new X509Certificate(read(name).match(/-----BEGIN CERTIFICATE[^]*?-----END CERTIFICATE-----/)[0]);
const jwks = (name, alg, more) => ({ keys: [{ ...certificate(name).publicKey.export({ format: 'jwk' }), use: 'sig', alg, ...more }] });

// The port is taken before the issuer is named: one that was only found to be free may be gone by now.
const server = createServer({ key: read('server-key.pem'), cert: read('server.pem'), ca: [certificate('tls.pem').toString()], requestCert: true, rejectUnauthorized: false });
await once(server.listen(0, '127.0.0.1'), 'listening');
const issuer = `https://127.0.0.1:${server.address().port}`;
const resource = 'https://api.brackwater.example';

const own = { redirect_uris: [], response_types: [], grant_types: ['client_credentials'], scope: 'consignments.read' };
const person = {
  application_type: 'native',
  redirect_uris: ['http://127.0.0.1/'],
  grant_types: ['authorization_code', 'refresh_token', 'urn:ietf:params:oauth:grant-type:device_code'],
  response_types: ['code'],
  token_endpoint_auth_method: 'none',
  scope: 'openid offline_access consignments.read',
};
const secret = 'a secret: 100 % sure + sound';

const provider = new Provider(issuer, {
  clients: [
    { ...own, client_id: 'basic:client', client_secret: secret, token_endpoint_auth_method: 'client_secret_basic' },
    { ...own, client_id: 'post', client_secret: secret, token_endpoint_auth_method: 'client_secret_post' },
    { ...own, client_id: 'ps256', token_endpoint_auth_method: 'private_key_jwt', token_endpoint_auth_signing_alg: 'PS256', jwks: jwks('ps256.pem', 'PS256', { kid: 'key-7' }) },
    { ...own, client_id: 'es256', token_endpoint_auth_method: 'private_key_jwt', token_endpoint_auth_signing_alg: 'ES256', jwks: jwks('es256.pem', 'ES256') },
    { ...own, client_id: 'tls', token_endpoint_auth_method: 'tls_client_auth', tls_client_auth_subject_dn: 'CN=tls' },
    { ...person, client_id: 'person' },
  ],
  scopes: ['openid', 'offline_access', 'consignments.read'],
  clientAuthMethods: ['client_secret_basic', 'client_secret_post', 'private_key_jwt', 'tls_client_auth', 'none'],
  rotateRefreshToken: true,
  pkce: { required: () => true },
  ttl: { AccessToken: 600, ClientCredentials: 600, RefreshToken: 3600, Grant: 3600, Session: 3600, Interaction: 600, DeviceCode: 600 },
  features: {
    devInteractions: { enabled: true },
    clientCredentials: { enabled: true },
    deviceFlow: { enabled: true },
    introspection: { enabled: true },
    revocation: { enabled: true },
    mTLS: {
      enabled: true,
      tlsClientAuth: true,
      certificateBoundAccessTokens: true,
      getCertificate: (ctx) => { const found = ctx.socket.getPeerX509Certificate?.(); return found && found.toString(); },
      certificateAuthorized: (ctx) => ctx.socket.authorized,
      certificateSubjectMatches: (ctx, property, expected) => ctx.socket.getPeerX509Certificate().subject === expected,
    },
    resourceIndicators: {
      enabled: true,
      defaultResource: (ctx) => (ctx.oidc.client?.clientId === 'person' || ctx.oidc.body?.opaque ? undefined : resource),
      getResourceServerInfo: () => ({ scope: 'consignments.read', audience: resource, accessTokenFormat: 'jwt', accessTokenTTL: 600 }),
      useGrantedResource: () => true,
    },
  },
});
provider.on('server_error', (ctx, error) => console.error(error));

server.on('request', provider.callback());
console.log(`listening on ${issuer}`);
