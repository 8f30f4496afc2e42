import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { decideStaff, isFairPassword, isFairPin, ROLES, type Staff, type StaffChange } from './index.ts';

const LEAD: Staff = { role: 'lead', active: true, badge: null, hasPin: false, hasPassword: true };
const HAND: Staff = { role: 'hand', active: true, badge: 'B-7', hasPin: true, hasPassword: false };
const decide = (change: StaffChange, before: Staff | null, more: { self?: boolean; otherLeads?: number } = {}) => {
  const decided = decideStaff(change, { name: 'Wren Okoro', before, self: more.self ?? false, otherLeads: more.otherLeads ?? 1 });
  return decided.ok ? decided.value : decided.error.code;
};

describe('L4 who works here', () => {
  it('somebody new needs a way in: a hand badge and PIN or a password, everybody else a password', () => {
    expect(decide({ role: 'hand', badge: 'B-1', pin: '4071' }, null)).toEqual({ ...HAND, badge: 'B-1' });
    expect(decide({ role: 'hand', badge: 'B-1' }, null)).toBe('people.noWayIn');
    expect(decide({ role: 'hand', pin: '4071' }, null)).toBe('people.noWayIn');
    expect(decide({ role: 'office', badge: 'B-1', pin: '4071' }, null)).toBe('people.noWayIn');
    expect(decide({ role: 'office', password: 'quarter past nine' }, null)).toMatchObject({ role: 'office', hasPassword: true });
  });

  it('a hand who becomes lead needs a password first; what is not named stays', () => {
    expect(decide({ role: 'lead' }, HAND)).toBe('people.noWayIn');
    expect(decide({ role: 'lead', password: 'quarter past nine' }, HAND)).toEqual({ ...HAND, role: 'lead', hasPassword: true });
    expect(decide({ pin: '9902' }, HAND)).toEqual(HAND);
    expect(decide({ badge: null }, HAND)).toBe('people.noWayIn');
  });

  it('there is always a lead who can come in, and nobody shuts oneself out', () => {
    for (const change of [{ role: 'hand' as const }, { active: false }]) {
      expect(decide(change, LEAD, { otherLeads: 0 })).toBe('people.lastLead');
      expect(decide(change, LEAD, { self: true, otherLeads: 3 })).toBe('people.notOneself');
      expect(decide(change, LEAD)).toMatchObject(change);
    }
    expect(decide({ active: false }, HAND, { otherLeads: 0 })).toEqual({ ...HAND, active: false });
    expect(decide({ active: false }, HAND, { self: true })).toBe('people.notOneself');
    // Somebody who is locked needs no way in; coming back they do.
    expect(decide({ active: false, badge: null }, HAND)).toMatchObject({ active: false, badge: null });
    expect(decide({ active: true }, { ...HAND, active: false, badge: null })).toBe('people.noWayIn');
  });

  it('PINs and passwords that are guessed at once are none', () => {
    expect(['0000', '1234', '9876', '12', '123456789', '40 71', '٤٠٧١', ''].filter(isFairPin)).toEqual([]);
    expect(['4071', '1122', '1357', '90210'].filter(isFairPin)).toHaveLength(4);
    const fair = (p: string): boolean => isFairPassword(p, 'Wren Okoro');
    expect(['short', 'aaaaaaaaaaaa', 'ababababab', 'wren okoro 1', 'WrenOkoro99'].filter(fair)).toEqual([]);
    expect(['quarter past nine', 'x7-Lm0-qq2'].filter(fair)).toHaveLength(2);
    expect(decide({ pin: '1111' }, HAND)).toBe('people.weakPin');
    expect(decide({ password: 'short' }, HAND)).toBe('people.weakPassword');
  });

  it('property: whatever is changed, the house keeps a lead and everybody who is active a way in', () => {
    const change = fc.record(
      {
        role: fc.constantFrom(...ROLES),
        active: fc.boolean(),
        badge: fc.constantFrom(null, 'B-1', 'B-2'),
        pin: fc.constantFrom('4071', '1111'),
        password: fc.constantFrom('quarter past nine', 'short'),
      },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(3), fc.nat(3), change), { maxLength: 30 }), (plan) => {
        const staff: Staff[] = [LEAD, LEAD, HAND, HAND];
        for (const [who, by, asked] of plan) {
          const otherLeads = staff.filter((s, n) => n !== who && s.role === 'lead' && s.active).length;
          const decided = decideStaff(asked, { name: `P ${who}`, before: staff[who] as Staff, self: who === by, otherLeads });
          if (decided.ok) staff[who] = decided.value;
        }
        expect(staff.some((s) => s.role === 'lead' && s.active)).toBe(true);
        for (const s of staff) if (s.active) expect(s.hasPassword || (s.role === 'hand' && s.badge !== null && s.hasPin)).toBe(true);
      }),
    );
  });
});
