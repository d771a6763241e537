// JWE and JWS by another implementation, for the tests: node jose.mjs seal|open|sign|verify KEY.pem ALG [ENC] < text
import { readFileSync } from 'node:fs';
import { createPrivateKey, createPublicKey } from 'node:crypto';
import { CompactEncrypt, CompactSign, compactDecrypt, compactVerify } from 'jose';

const [what, file, alg, enc] = process.argv.slice(2);
const pem = readFileSync(file, 'utf8');
const input = readFileSync(0);
const text = input.toString().trim();
const key = pem.includes('PRIVATE') ? createPrivateKey(pem) : createPublicKey(pem);
const result = {
  seal: () => new CompactEncrypt(input).setProtectedHeader({ alg, enc }).encrypt(key),
  open: async () => Buffer.from((await compactDecrypt(text, key)).plaintext).toString(),
  sign: () => new CompactSign(input).setProtectedHeader({ alg }).sign(key),
  verify: async () => Buffer.from((await compactVerify(text, key)).payload).toString(),
};
process.stdout.write(await result[what]());
