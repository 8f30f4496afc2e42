import { describe, expect, it } from '@jest/globals';
import { houseForTests } from '../testing/house.ts';

const { house } = houseForTests({});

describe('L4 the limit on tries', () => {
  const signIn = (name: string, password: string): Promise<Response> =>
    house.stranger.raw('/api/sign-in', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name, password }),
    });

  it('holds when forty come at once, in whatever letters, by name or by badge', async () => {
    const [tobin] = await house.rows<{ badge: string }>(`SELECT badge FROM person WHERE name = ?`, ['Tobin Sallow']);
    const badgeIn = (): Promise<Response> =>
      house.stranger.raw('/api/sign-in/badge', {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ badge: tobin?.badge, pin: '0000' }),
      });
    const spelt = ['Tobin Sallow', 'tobin sallow', 'TOBIN SALLOW', ' Tobin Sallow '];
    const answers = await Promise.all(
      Array.from({ length: 40 }, (_, n) => (n % 5 === 4 ? badgeIn() : signIn(spelt[n % 4] as string, `wrong-${n}`))),
    );
    const statuses = answers.map((a) => a.status);
    expect(statuses.filter((s) => s === 429)).toHaveLength(35);
    expect(statuses.filter((s) => s !== 429).every((s) => s === 401 || s === 403)).toBe(true);
    // The right password is no key either while the door is shut; time opens it.
    expect((await signIn('Tobin Sallow', 'comb-and-frame')).status).toBe(429);
    await house.rows(`UPDATE sign_in_failure SET at = at - make_interval(mins => ?)`, [6]);
    expect((await signIn('Tobin Sallow', 'comb-and-frame')).status).toBe(200);
  });

  it('holds for names that nobody has, and a right try gives all of them back', async () => {
    const nobody = await Promise.all(Array.from({ length: 7 }, () => signIn('Nobody At All', 'x')));
    expect(nobody.filter((a) => a.status === 429)).toHaveLength(2);
    for (let wrong = 0; wrong < 4; wrong += 1) expect((await signIn('Odile Wrack', 'wrong')).status).toBe(401);
    expect((await signIn('Odile Wrack', 'comb-and-frame')).status).toBe(200);
    expect((await signIn('Odile Wrack', 'wrong')).status).toBe(401);
  });
});
