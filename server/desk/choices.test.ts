import { describe, expect, it } from '@jest/globals';
import { CHOICE_KINDS, type ChoiceKind } from '#contract/desk';
import { houseForTests } from '../testing/house.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });

const choices = async (kind: ChoiceKind, q: string, site = 1) => (await lead.ask('desk.choices', { site, query: { kind, q } })).reply;

describe('what a field finds by name', () => {
  it('every kind is found by its own code, first of all, and again by its number', async () => {
    for (const kind of CHOICE_KINDS) {
      const { choices: some } = await choices(kind, '');
      expect({ kind, found: some.length > 0 }).toEqual({ kind, found: true });
      for (const one of some) {
        expect({ kind, first: (await choices(kind, one.code)).choices[0] }).toMatchObject({ kind, first: { id: one.id, code: one.code } });
        const known = (await lead.ask('desk.choices', { query: { kind, id: one.id } })).reply.choices;
        expect(known).toEqual([one]);
      }
    }
    expect((await lead.ask('desk.choices', { query: { kind: 'item', id: 2_000_000_000 } })).reply).toEqual({ choices: [], more: false });
  });

  it('words in any order; what stands for anything to the database stands for itself', async () => {
    await house.rows(`INSERT INTO customer (code, name) VALUES ('C-1', 'Half_Moon 100% Honey'), ('C-10', 'Moon Half Honey')`);
    expect((await choices('customer', 'honey 100%')).choices.map((c) => c.name)).toEqual(['Half_Moon 100% Honey']);
    expect((await choices('customer', 'half_moon')).choices).toHaveLength(1);
    expect((await choices('customer', 'c-1')).choices.map((c) => c.code)).toEqual(['C-1', 'C-10']);
    for (const kind of CHOICE_KINDS) expect((await choices(kind, `%_\\'; DROP TABLE item; --`)).choices).toEqual([]);
  });

  it('bins, orders and documents are those of the site; a retired bin and a retired item are not offered', async () => {
    const sites = await house.rows<{ site: number; address: string }>(
      `SELECT DISTINCT ON (site_id) site_id AS site, address FROM bin WHERE use = 'shelf' AND retired_at IS NULL ORDER BY site_id, id`,
    );
    expect(sites.length).toBeGreaterThan(1);
    for (const { address, site } of sites) {
      const ids = (await choices('bin', address, site)).choices.map((c) => c.id);
      const there = await house.rows<{ site_id: number }>(`SELECT DISTINCT site_id FROM bin WHERE id = ANY(?::int[])`, [ids]);
      expect(there).toEqual([{ site_id: site }]);
    }
    for (const kind of ['order', 'document'] as const) {
      const table = kind === 'order' ? 'customer_order' : 'document';
      const ids = (await choices(kind, '', 2)).choices.map((c) => c.id);
      const elsewhere = await house.rows(`SELECT id FROM ${table} WHERE id = ANY(?::int[]) AND site_id <> 2`, [ids]);
      expect(elsewhere).toEqual([]);
    }
    const [empty] = await house.rows<{ id: number; address: string }>(
      `SELECT id, address
       FROM bin
       WHERE site_id = 1 AND use = 'shelf' AND NOT EXISTS (SELECT 1 FROM balance b WHERE b.bin_id = bin.id)
       ORDER BY id
       LIMIT 1`,
    );
    await house.rows(`UPDATE bin SET retired_at = now() WHERE id = ?`, [empty?.id]);
    expect((await choices('bin', empty?.address ?? '')).choices.map((c) => c.id)).not.toContain(empty?.id);
    const [item] = await house.rows<{ id: number; code: string }>(
      `UPDATE item SET retired_at = now() WHERE id = (SELECT max(id) FROM item) RETURNING id, code`,
    );
    expect((await choices('item', item?.code ?? '')).choices.map((c) => c.id)).not.toContain(item?.id);
  });

  it('says whether there is more than it shows', async () => {
    const many = await choices('bin', '');
    expect([many.choices.length, many.more]).toEqual([12, true]);
    expect((await choices('person', '')).more).toBe(false);
  });
});
