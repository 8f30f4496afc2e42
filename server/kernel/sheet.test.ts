import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { askHelper, keepFile, MOST_COLUMNS, MOST_ROWS, parseSheet, Refusal, type Sheet } from '#server/kernel';
import { openHouse, type TestHouse } from '../testing/house.ts';
import { cellOf, workbookOf, zipOf } from '../testing/zip.ts';

const csv = (text: string): Promise<Sheet> => parseSheet(Buffer.from(text), 'a.csv');
const xlsx = (bytes: Buffer): Promise<Sheet> => parseSheet(bytes, 'a.xlsx');
const HEAD = `<row r="1">${cellOf('A1', 'Zone')}${cellOf('B1', 'Address')}</row>`;
const page = (rows: string, after = ''): Buffer => workbookOf(`<sheetData>${HEAD}${rows}</sheetData>${after}`);

describe('what a sheet may be', () => {
  it('reads what is there: rows by their number, cells by their column, empty ones between', async () => {
    const sheet = await xlsx(page(`<row r="4">${cellOf('B4', 'A-01')}</row><row r="9"><c r="A9"/></row>`));
    expect(sheet).toEqual({ header: ['Zone', 'Address'], rows: [{ row: 4, cells: ['', 'A-01'] }] });
  });
  it('too wide is refused with its row; empty columns at the end do not count', async () => {
    const wide = (n: number): string => `${'a,'.repeat(n - 1)}b\n${'1,'.repeat(n - 1)}x`;
    expect((await csv(wide(MOST_COLUMNS))).header).toHaveLength(MOST_COLUMNS);
    await expect(csv(wide(MOST_COLUMNS + 1))).rejects.toThrow(
      `a.csv, row 1: it has ${MOST_COLUMNS + 1} columns; at most ${MOST_COLUMNS} are read.`,
    );
    expect((await csv(`a,b${','.repeat(5000)}\n1,2${','.repeat(5000)}`)).rows).toEqual([{ row: 2, cells: ['1', '2'] }]);
    await expect(xlsx(page(`<row r="2">${cellOf('XFD2', 'far out')}</row>`))).rejects.toThrow('row 2: it uses column 16384');
  });
  it('too long is refused; as many rows as are read at once are read', async () => {
    expect((await csv(`a\n${'1\n'.repeat(MOST_ROWS)}`)).rows).toHaveLength(MOST_ROWS);
    await expect(csv(`a\n${'1\n'.repeat(MOST_ROWS + 1)}`)).rejects.toThrow(`more than ${MOST_ROWS} rows`);
    await expect(csv(`a\n${`${'1,'.repeat(250)}1\n`.repeat(21_000)}`)).rejects.toThrow('cells; that many are read at once');
  }, 60_000);
  it('an open quotation mark is named by its row', async () => {
    await expect(csv('a,b\n1,2\n"3,4\n5,6')).rejects.toThrow('row 3: a quotation mark is opened and never closed');
  });

  // Each of these is some kilobytes, and took all memory or the whole process.
  it('merged cells over a whole page, a name for all of it, a style for every column: read as if they were not there', async () => {
    const all = 'A1:XFD1048576';
    const merged = page(`<row r="2">${cellOf('A2', 'STORE')}</row>`, `<mergeCells count="1"><mergeCell ref="${all}"/></mergeCells>`);
    expect((await xlsx(merged)).rows).toEqual([{ row: 2, cells: ['STORE'] }]);
    const styled = workbookOf(
      `<cols><col min="1" max="16384" width="9"/></cols><sheetData>${HEAD}<row r="1048576">${cellOf('A1048576', 'last')}</row></sheetData>`,
    );
    expect((await xlsx(styled)).rows).toEqual([{ row: 1_048_576, cells: ['last'] }]);
  }, 30_000);
  it('what unpacks to more than may be held is refused before it is held, whatever it says of its own size', async () => {
    const zeros = Buffer.alloc(310_000_000);
    const honest = workbookOf(`<sheetData>${HEAD}</sheetData>`, { parts: [{ name: 'xl/media/a.bin', bytes: zeros }] });
    expect(honest.length).toBeLessThan(400_000);
    await expect(xlsx(honest)).rejects.toThrow('comes to more than 300 MB when it is unpacked');
    const lying = workbookOf(`<sheetData>${HEAD}</sheetData>`, { parts: [{ name: 'xl/media/a.bin', bytes: zeros, claims: 1000 }] });
    await expect(xlsx(lying)).rejects.toThrow('it may be damaged or protected');
    const many = zipOf(Array.from({ length: 2100 }, (_, n) => ({ name: `p${n}`, bytes: Buffer.from('x') })));
    await expect(xlsx(many)).rejects.toThrow('when it is unpacked');
    await expect(xlsx(Buffer.from('PK\u0003\u0004 and nothing more'))).rejects.toThrow('it may be damaged or protected');
  }, 60_000);
});

describe('a helper', () => {
  let house: TestHouse;
  beforeAll(async () => {
    process.env['DOCKROW_HELPER_MB'] = '120';
    house = await openHouse({ jobs: false });
  });
  afterAll(() => house.close());
  const kept = async (name: string, bytes: Buffer): Promise<number> =>
    (await keepFile(house.db, { name, type: 'text/csv', bytes, thumb: null, person: 1 })).id;
  const read = (file: number, most?: number, signal?: AbortSignal): Promise<Sheet> =>
    askHelper<Sheet>('sheet', { database: house.url, file }, { what: 'Reading it', ...(most ? { most } : {}), signal });

  it('reads what the database keeps; its refusals come through in their own words, and it serves again', async () => {
    const good = await kept('good.csv', Buffer.from('a,b\n1,2'));
    expect(await read(good)).toEqual({ header: ['a', 'b'], rows: [{ row: 2, cells: ['1', '2'] }] });
    await expect(read(await kept('empty.csv', Buffer.from('\n')))).rejects.toThrow('empty.csv is empty.');
    await expect(read(999_999_999)).rejects.toBeInstanceOf(Refusal);
    expect((await read(good)).rows).toHaveLength(1);
  }, 30_000);
  it('what takes too long, or is no longer wanted, is broken off, and others are served meanwhile', async () => {
    const long = await kept('long.csv', Buffer.from(`a\n${'1,2,3,4,5,6,7,8,9\n'.repeat(190_000)}`));
    const good = await kept('good2.csv', Buffer.from('a,b\n1,2'));
    await expect(read(long, 5)).rejects.toMatchObject({ error: { code: 'server.helperEnded', why: 'took more than 0 seconds' } });
    const stop = new AbortController();
    const unwanted = read(long, undefined, stop.signal);
    const wanted = read(good);
    stop.abort(new Error('nobody wants it'));
    await expect(unwanted).rejects.toThrow('nobody wants it');
    expect((await wanted).rows).toHaveLength(1);
  }, 30_000);
  it('one that runs out of memory takes nothing with it', async () => {
    // Each cell becomes an object: far more than the file says, far more than a helper may hold.
    const row = (n: number): string =>
      `<row r="${n}">${Array.from({ length: 300 }, (_, c) => `<c r="${column(c)}${n}"><v>1</v></c>`).join('')}</row>`;
    const heavy = workbookOf(`<sheetData>${Array.from({ length: 2000 }, (_, n) => row(n + 1)).join('')}</sheetData>`);
    expect(heavy.length).toBeLessThan(20_000_000);
    await expect(read(await kept('heavy.xlsx', heavy))).rejects.toMatchObject({
      error: { code: 'server.helperEnded', why: 'needed more memory than a file may' },
    });
    expect((await read(await kept('good3.csv', Buffer.from('a\n1')))).rows).toHaveLength(1);
  }, 120_000);
});

const column = (n: number): string => (n < 26 ? '' : String.fromCharCode(64 + Math.floor(n / 26))) + String.fromCharCode(65 + (n % 26));
