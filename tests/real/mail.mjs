// A real mail server for the tests: node mail.mjs FOLDER
// It writes each mail that it takes to FOLDER/N.eml, and reads FOLDER/manner before each: what it does with the next one.
import { once } from 'node:events';
import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { SMTPServer } from 'smtp-server';

const [folder] = process.argv.slice(2);
const manner = () => (existsSync(`${folder}/manner`) ? readFileSync(`${folder}/manner`, 'utf8').trim() : '');
const refusal = (code, words) => Object.assign(new Error(words), { responseCode: code });
const claims = (token) => { try { return JSON.parse(Buffer.from(token.split('.')[1], 'base64url').toString()); } catch { return null; } };
let taken = 0;

const server = new SMTPServer({
  authOptional: true,
  allowInsecureAuth: true,
  secure: manner() === 'tls',
  cert: readFileSync(`${folder}/server.crt`),
  key: readFileSync(`${folder}/server.key`),
  size: 200_000,
  authMethods: ['PLAIN', 'LOGIN', 'XOAUTH2'],
  // A token of the stand-in cloud names the client that it was issued to.
  onAuth: (auth, session, done) => (auth.method === 'XOAUTH2' ? (claims(auth.accessToken)?.client_id === 'brackwater-demo' && auth.username === 'night@brackwater.example' ? done(null, { user: auth.username }) : done(refusal(535, 'the token is not good here'))) : auth.username === 'night-jobs' && auth.password === 'mail pass: 100 %' ? done(null, { user: auth.username }) : done(refusal(535, 'wrong name or password'))),
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
