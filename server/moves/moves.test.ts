import { describe, expect, it } from '@jest/globals';
import type { BodyIn, Routes } from '#contract';
import { emptyBins, lyingOf, shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' }, { jobs: false });

type Move = BodyIn<Routes['moves.move']>;
const move = (body: Move, who = hand, key?: string) => who.ask('moves.move', { body, ...(key ? { key } : {}) });
const refusal = async (body: Move, who = hand): Promise<string> => (await move(body, who)).problem.code;
const movements = async (item: number): Promise<number> =>
  (await house.rows<{ n: number }>(`SELECT count(*)::int AS n FROM movement WHERE item_id = ?`, [item]))[0]?.n ?? 0;

describe('goods that are carried from bin to bin (I1, I2)', () => {
  it('lie where they were put, on a document of their own, with who and why', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'MV-1', lying: [{ qty: '10' }] });
    const [to] = await emptyBins(house, 1, 1);
    const { reply } = await move({ from: bins[0]?.address ?? '', to: to?.address ?? '', code: 'mv-1', qty: '4' });
    expect(reply).toMatchObject({ code: 'MV-1', qty: '4', to: to?.address });
    expect(await lyingOf(house, id)).toEqual({ [bins[0]?.address ?? '']: 6, [to?.address ?? '']: 4 });
    const [told] = await house.rows(
      `SELECT m.reason, p.name, d.kind, d.number FROM movement m JOIN person p ON p.id = m.person_id JOIN document d ON d.id = m.document_id
       WHERE m.document_id = ?`,
      [reply.document],
    );
    expect(told).toEqual({ reason: 'Moved', name: 'Tobin Sallow', kind: 'move', number: reply.number });
  });

  it('sent twice under one key they are carried once', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'MV-2', lying: [{ qty: '10' }] });
    const body = { from: bins[0]?.address ?? '', to: 'QUARANTINE', code: 'MV-2', qty: '3' };
    const key = crypto.randomUUID();
    const answers = await Promise.all([move(body, hand, key), move(body, hand, key), move(body, hand, key)]);
    expect(new Set(answers.map((a) => a.reply.number)).size).toBe(1);
    expect(await lyingOf(house, id)).toEqual({ [bins[0]?.address ?? '']: 7, QUARANTINE: 3 });
  });

  it('ten people who carry the last five, two each, leave none that was not there: two of them carry', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'MV-3', lying: [{ qty: '5' }] });
    const from = bins[0]?.address ?? '';
    const answers = await Promise.all(Array.from({ length: 10 }, () => move({ from, to: 'QUARANTINE', code: 'MV-3', qty: '2' })));
    expect(answers.filter((a) => a.status === 200)).toHaveLength(2);
    expect(new Set(answers.filter((a) => a.status !== 200).map((a) => a.problem.code))).toEqual(new Set(['stock.binShort']));
    expect(await lyingOf(house, id)).toEqual({ [from]: 1, QUARANTINE: 4 });
  });

  it('two who carry the same goods against each other wait for each other, and nothing is lost', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'MV-4', lying: [{ qty: '20' }, { qty: '20' }] });
    const [a, b] = bins.map((bin) => bin.address);
    const walk = (n: number) => move({ from: (n % 2 ? a : b) ?? '', to: (n % 2 ? b : a) ?? '', code: 'MV-4', qty: '1' });
    const answers = await Promise.all(Array.from({ length: 24 }, (_, n) => walk(n)));
    expect(answers.map((x) => x.status)).toEqual(answers.map(() => 200));
    expect(await lyingOf(house, id)).toEqual({ [a ?? '']: 20, [b ?? '']: 20 });
  });

  it('says which lot, once it must be said; the first to expire is no guess', async () => {
    const { bins, id } = await shelved(house, lead, {
      code: 'MV-5',
      tracking: 'lotExpiry',
      lying: [{ qty: '4', lot: 'L1', expires: '2030-01-31' }],
    });
    const from = bins[0]?.address ?? '';
    expect((await move({ from, to: 'QUARANTINE', code: 'MV-5', qty: '1' })).status).toBe(200);
    const body = { lines: [{ bin: from, qty: '4', lot: 'L2', expires: '2029-01-31', serials: [] }], reason: 'found' };
    await lead.ask('stock.opening', { params: { id }, body });
    expect(await refusal({ from, to: 'QUARANTINE', code: 'MV-5', qty: '1' })).toBe('moves.whichLot');
    expect(await refusal({ from, to: 'QUARANTINE', code: 'MV-5', qty: '1', lot: 'L9' })).toBe('moves.unknownLot');
    expect(await refusal({ from, to: 'QUARANTINE', code: 'MV-5', qty: '5', lot: 'L2' })).toBe('stock.binShort');
    expect((await move({ from, to: 'QUARANTINE', code: 'MV-5', qty: '4', lot: 'L2' })).status).toBe(200);
  });

  it('a serial is one piece, by its own label, in one place', async () => {
    const { id, bins } = await shelved(house, lead, {
      code: 'MV-6',
      tracking: 'serial',
      lying: [{ qty: '2', serials: ['MV6-A', 'MV6-B'] }],
    });
    const from = bins[0]?.address ?? '';
    expect(await refusal({ from, to: 'QUARANTINE', code: 'MV-6' })).toBe('moves.whichSerial');
    const answers = await Promise.all(['QUARANTINE', 'SCRAP'].map((to) => move({ from, to, code: 'MV-6', serial: 'MV6-A' })));
    expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
    expect(Object.values(await lyingOf(house, id)).sort()).toEqual([1, 1]);
  });

  it('what expired goes to no shelf, but a lead may say that it lies there', async () => {
    const { bins } = await shelved(house, lead, {
      code: 'MV-7',
      tracking: 'lotExpiry',
      lying: [{ qty: '4', lot: 'OLD', expires: '2024-01-31' }],
    });
    const [to] = await emptyBins(house, 1, 1);
    const body = { from: bins[0]?.address ?? '', to: to?.address ?? '', code: 'MV-7', qty: '1' };
    expect(await refusal(body)).toBe('moves.expiredToShelf');
    expect((await move({ ...body, override: 'only to weigh it' }, lead)).status).toBe(200);
    expect(await refusal({ ...body, override: 'I may' })).toBe('people.noRight');
  });

  it.each<[string, Partial<Move>, string]>([
    ['more than is there', { qty: '11' }, 'stock.binShort'],
    ['nothing', { qty: '0' }, 'stock.nothingToMove'],
    ['half a piece', { qty: '0.5' }, 'stock.tooFine'],
    ['a bin that nobody knows', { to: 'NO-SUCH-1' }, 'places.unknownBin'],
    ['goods that nobody knows', { code: 'NO-SUCH' }, 'items.unknownCode'],
    ['goods that are not in that bin', { code: 'HV-10' }, 'moves.notThere'],
  ])('%s: is refused, and the ledger says nothing', async (_, wrong, code) => {
    const known = await house.rows<{ id: number; address: string }>(
      `SELECT i.id, f.address FROM item i JOIN stock_fact f ON f.item_id = i.id WHERE i.code = 'MV-8'`,
    );
    const first = known[0] ?? (await make());
    const before = await movements(first.id);
    expect(await refusal({ from: first.address, to: 'QUARANTINE', code: 'MV-8', qty: '1', ...wrong })).toBe(code);
    expect(await movements(first.id)).toBe(before);
  });
  const make = async (): Promise<{ id: number; address: string }> => {
    const { id, bins } = await shelved(house, lead, { code: 'MV-8', lying: [{ qty: '10' }] });
    return { id, address: bins[0]?.address ?? '' };
  };

  it('E6 gets a new lot number on its way, with its date and its tie; undone, it is the old one where it lay', async () => {
    const lying = [{ qty: '10', lot: 'OLD-1', expires: '2031-05-31' }];
    const { id, bins } = await shelved(house, lead, { code: 'MV-E6', tracking: 'lotExpiry', lying });
    const [to] = await emptyBins(house, 1, 1);
    const [from, target] = [bins[0]?.address ?? '', to?.address ?? ''];
    const moved = await move({ from, to: target, code: 'MV-E6', qty: '4', lot: 'OLD-1', newLot: 'NEW-1', reason: 'Repacked' });
    expect(moved.status).toBe(200);
    const lots = () =>
      house.rows<{ address: string; lot: string; expires: string; qty: number }>(
        `SELECT address, lot, expires::text AS expires, qty::int AS qty FROM stock_fact WHERE item_id = ? AND qty > 0 ORDER BY lot`,
        [id],
      );
    expect(await lots()).toEqual([
      { address: target, lot: 'NEW-1', expires: '2031-05-31', qty: 4 },
      { address: from, lot: 'OLD-1', expires: '2031-05-31', qty: 6 },
    ]);
    const ties = async (lot: string) => (await lead.ask('lots.ties', { params: { id, lot } })).reply;
    expect((await ties('NEW-1')).cameFrom).toMatchObject([{ lot: 'OLD-1', qty: '4' }]);
    expect((await ties('OLD-1')).became).toMatchObject([{ lot: 'NEW-1' }]);
    expect(await refusal({ from, to: target, code: 'MV-E6', qty: '1', lot: 'OLD-1', newLot: 'OLD-1' })).toBe('lots.sameLot');
    expect(await refusal({ from, to: target, code: 'MV-E6', qty: '7', lot: 'OLD-1', newLot: 'NEW-2' })).toBe('stock.binShort');
    await lead.ask('stock.undo', { params: { id: moved.reply.document }, body: { reason: 'By mistake' } });
    expect(await lots()).toEqual([{ address: from, lot: 'OLD-1', expires: '2031-05-31', qty: 10 }]);
    expect((await ties('NEW-1')).cameFrom).toEqual([]);
    const plain = await shelved(house, lead, { code: 'MV-E6P', lying: [{ qty: '3' }] });
    expect(await refusal({ from: plain.bins[0]?.address ?? '', to: target, code: 'MV-E6P', qty: '1', newLot: 'X' })).toBe('lots.noLots');
  });
  it('a move stays at its site: a bin of another is named with where it is', async () => {
    const { bins } = await shelved(house, lead, { code: 'MV-9', lying: [{ qty: '10' }] });
    const [far] = await house.rows<{ address: string; site: string }>(
      `SELECT b.address, s.name AS site FROM bin b JOIN site s ON s.id = b.site_id
       WHERE b.site_id = 2 AND b.use = 'shelf'
         AND NOT EXISTS (SELECT 1 FROM bin_name n WHERE n.site_id = 1 AND n.name = fold_name(b.address))
       LIMIT 1`,
    );
    const { problem } = await move({ from: bins[0]?.address ?? '', to: far?.address ?? '', code: 'MV-9', qty: '1' });
    expect(problem.code).toBe('places.binElsewhere');
    expect(problem.detail).toContain(far?.site);
  });
});

describe('what is to be put away', () => {
  it('stands there with since when, and leaves the list by being put down; a home is where it goes', async () => {
    const { id } = await shelved(house, lead, { code: 'PA-1', lying: [] });
    const [home] = await emptyBins(house, 1, 1);
    await lead.ask('items.assign', { body: { pairs: [{ bin: home?.address ?? '', item: 'PA-1' }], role: 'face' } });
    await lead.ask('stock.opening', { params: { id }, body: { lines: [{ bin: 'ARRIVALS', qty: '6', serials: [] }] } });
    const row = async () => (await hand.ask('moves.putAway')).reply.rows.find((r) => r.item === id);
    expect(await row()).toMatchObject({ from: 'ARRIVALS', qty: '6', suggestion: { address: home?.address, why: 'home' } });
    const { reply } = await move({ from: 'ARRIVALS', to: home?.address ?? '', code: 'PA-1', qty: '6' });
    expect(reply.number).toMatch(/^PA-/);
    expect(await row()).toBeUndefined();
  });
  it('a part is asked for by itself: what does not fit whole may fit in part; nobody is told a bin of another site', async () => {
    const { id } = await shelved(house, lead, { code: 'PA-2', lying: [] });
    const [home] = await emptyBins(house, 1, 1);
    await lead.ask('items.assign', { body: { pairs: [{ bin: home?.address ?? '', item: 'PA-2' }], role: 'face' } });
    await house.rows(`UPDATE home_bin SET max_qty = 4 WHERE bin_id = ? AND item_id = ?`, [home?.id, id]);
    const best = async (qty: string) => (await hand.ask('moves.suggest', { query: { item: id, qty } })).reply.suggestion;
    expect(await best('4')).toMatchObject({ address: home?.address, why: 'home' });
    expect(await best('5')).toMatchObject({ why: 'empty' });
    for (const qty of ['-1', '1e9', 'x']) expect((await hand.ask('moves.suggest', { query: { item: id, qty } })).status).toBe(400);
    const far = (await house.signIn('Maren Oake')).ask('moves.suggest', { query: { item: id, qty: '4' }, site: 2 });
    const there = (await far).reply.suggestion;
    expect((await house.rows<{ site: number }>(`SELECT site_id AS site FROM bin WHERE id = ?`, [there?.bin ?? 0]))[0]?.site).toBe(2);
  });
});
