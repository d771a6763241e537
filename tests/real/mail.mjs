// A real mail server for the tests: node mail.mjs FOLDER
// It writes each mail that it takes to FOLDER/N.eml, and reads FOLDER/manner before each: what it does with the next one.
import { once } from 'node:events';
import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { SMTPServer } from 'smtp-server';
import mechanisms from './node_modules/smtp-server/dist/esm/sasl.js';

const [folder] = process.argv.slice(2);
const manner = () => (existsSync(`${folder}/manner`) ? readFileSync(`${folder}/manner`, 'utf8').trim() : '');
const refusal = (code, words) => Object.assign(new Error(words), { responseCode: code });
const claims = (token) => { try { return JSON.parse(Buffer.from(token.split('.')[1], 'base64url').toString()); } catch { return null; } };
const tokenMethods = ['XOAUTH2', 'OAUTHBEARER'];
let taken = 0;

// OAUTHBEARER (RFC 7628 section 3.1): a GS2 header that names the user, then key=value pairs between bytes 0x01.
mechanisms.SASL_OAUTHBEARER = function (words, callback) {
  const [header, ...pairs] = Buffer.from(words[0] ?? '', 'base64').toString().split('\x01');
  const username = /^n,a=([^,]+),$/.exec(header)?.[1].replace(/=2C/g, ',').replace(/=3D/g, '=');
  const accessToken = pairs.find((pair) => pair.startsWith('auth=Bearer '))?.slice(12);
  this._server.onAuth({ method: 'OAUTHBEARER', username, accessToken }, this.session, (error, answer) => {
    if (error) this.send(error.responseCode ?? 535, error.message);
    else {
      this.session.user = answer.user;
      this.send(235, 'Authentication successful');
    }
    callback();
  });
};

const server = new SMTPServer({
  authOptional: true,
  allowInsecureAuth: true,
  secure: manner() === 'tls',
  cert: readFileSync(`${folder}/server.crt`),
  key: readFileSync(`${folder}/server.key`),
  size: 200_000,
  onConnect: (session, done) => {
    server.options.authMethods = manner() === 'bearer' ? ['OAUTHBEARER'] : ['PLAIN', 'LOGIN', 'XOAUTH2'];
    done();
  },
  // A token of the stand-in cloud names the client that it was issued to.
  onAuth: (auth, session, done) => (tokenMethods.includes(auth.method) ? (claims(auth.accessToken)?.client_id === 'brackwater-demo' && auth.username === 'night@brackwater.example' ? done(null, { user: auth.username }) : done(refusal(535, 'the token is not good here'))) : auth.username === 'night-jobs' && auth.password === 'mail pass: 100 %' ? done(null, { user: auth.username }) : done(refusal(535, 'wrong name or password'))),
  onRcptTo: (address, session, done) => {
    const how = manner();
    if (how === 'later') return done(refusal(451, 'greylisted, come again later'));
    if (how === 'everybody') return done();
    if (address.address.startsWith('tomorrow@')) return done(refusal(451, 'come again later'));
    if (how === 'unknown' || address.address.startsWith('nobody@')) return done(refusal(550, 'no such mailbox'));
    return done();
  },
  onData: (stream, session, done) => {
    const pieces = [];
    stream.on('data', (piece) => pieces.push(piece));
    stream.on('end', () => {
      const how = manner();
      if (how !== 'lost') writeFileSync(`${folder}/${++taken}.eml`, Buffer.concat(pieces));
      appendFileSync(`${folder}/envelopes`, `${session.envelope.mailFrom.address} ${session.envelope.rcptTo.map((to) => to.address).join(',')} ${session.user ?? '-'}\n`);
      // The answer never comes, whether the mail was taken or not.
      if (how === 'taken-and-cut' || how === 'lost') return session.connection?.destroy?.() ?? [...server.connections].forEach((connection) => connection._socket.destroy());
      if (how === 'taken-and-silent') return;
      done(null, 'taken as ' + taken);
    });
  },
});

server.on('error', () => {});
await once(server.listen(0, '127.0.0.1'), 'listening');
console.log(`listening on ${server.server.address().port}`);
