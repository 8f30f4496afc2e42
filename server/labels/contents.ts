import { setImmediate as immediately } from 'node:timers/promises';
import sharp from 'sharp';
import { writeDay } from '#core/base';
import {
  checkSamples,
  composeLabel,
  contentsFault,
  hasOwnFields,
  isOwn,
  LABEL_KINDS,
  labelsSentence,
  layOutArranged,
  ownKey,
  paperFault,
  partOf,
  sampleLabels,
  USUAL_CONTENTS,
  withoutGivenUp,
  type Drawing,
  type LabelContents,
  type LabelFace,
  type LabelKind,
  type LabelRequest,
  type OwnPart,
} from '#core/labels';
import type { ContentsBody } from '#contract/labels';
import { announce, refuse, type Db, type RoomHandlers } from '#server/kernel';
import { selectOwnFields } from '#server/items';
import { selectHouse } from '#server/people';
import { drawSvg, greysOf } from './draw.ts';
import { drawingOf, isFault, labelTools, USUAL_DPI } from './drawing.ts';
import { NO_LOGOS, type Logos } from './logo.ts';
import { insertContents, selectContents, selectLastContents, selectMore, selectPictures, selectToday } from './store-contents.ts';

type Reads = Pick<Db, 'raw'>;
type Handlers = Pick<RoomHandlers<'labels'>, 'labels.contents' | 'labels.draft' | 'labels.setContents'>;

export const contentsHandlers: Handlers = {
  'labels.contents': async (db, { params: { kind } }) => {
    const [last, before] = await selectLastContents(db, kind);
    const own = await ownParts(db, kind);
    const asBody = (kept: LabelContents): ContentsBody => {
      const { logo, ...contents } = withoutGivenUp(kind, kept, own);
      return {
        shown: [...contents.shown],
        texts: [...contents.texts],
        arranged: contents.arranged.map((a) => ({ ...a, boxes: { ...a.boxes } })),
        logo: logo?.file ?? null,
      };
    };
    return {
      version: last?.version ?? 0,
      contents: asBody(last?.contents ?? USUAL_CONTENTS[kind]),
      ...{ by: last?.by ?? null, at: last?.at ?? null },
      before: last ? asBody(before?.contents ?? USUAL_CONTENTS[kind]) : null,
      own,
    };
  },
  'labels.draft': async (db, { params: { kind }, query: { contents: body, ...paper } }) => {
    const fault = paperFault(paper, null);
    if (fault) refuse(fault);
    const contents = await contentsOf(db, kind, body);
    const house = { ...(await selectHouse(db)), own: await ownParts(db, kind) };
    const [sample] = sampleLabels(kind, contents, house);
    if (!sample) return refuse({ code: 'labels.nothing' });
    const face = composeLabel({ ...sample.request, paper }, contents);
    // Whoever arranges it sees it as it is arranged, with what has no room left out; not what the rule would do instead.
    const { drawing, noRoom } = face.arranged
      ? layOutArranged(face, face.arranged, USUAL_DPI, labelTools)
      : { drawing: drawingOf(face), noRoom: new Array<string>() };
    const checking = checkSamples(kind, contents, paper, house, labelTools);
    let next = checking.next();
    for (; !next.done; next = checking.next()) await immediately();
    const checks = next.value;
    return {
      svg: isFault(drawing) ? null : drawSvg(drawing, await loadLogos(db, [face])),
      unsaid: isFault(drawing) ? [labelsSentence(drawing)] : [...drawing.unsaid],
      drawn: isFault(drawing) ? [] : partsIn(drawing).filter((part) => !noRoom.includes(part)),
      checks: checks.map((c) => ({ ...c, misses: [...c.misses], dpi: [...c.dpi] })),
    };
  },
  'labels.setContents': async (trx, { params: { kind }, body: { version, ...body }, me }) => {
    const contents = await contentsOf(trx, kind, body);
    const [last] = await selectLastContents(trx, kind);
    const isKept = (last?.version ?? 0) === version && (await insertContents(trx, { kind, version: version + 1, contents, person: me.id }));
    if (!isKept) {
      const [newer] = await selectLastContents(trx, kind);
      refuse({ code: 'labels.changedMeanwhile', by: newer?.by ?? 'Somebody else' });
    }
    announce(trx, 'labels');
    return { ok: true };
  },
};

const partsIn = ({ texts, arrow, logo }: Drawing): string[] => [
  ...new Set([...texts.map((t) => partOf(t.field)), 'symbol', ...(arrow ? ['arrow'] : []), ...(logo ? ['logo'] : [])]),
];

// The fields of the company's own that may stand on a kind.
const ownParts = async (db: Reads, kind: LabelKind): Promise<OwnPart[]> =>
  hasOwnFields(kind) ? (await selectOwnFields(db)).filter((f) => !f.retired).map(({ id, label }) => ({ id, label })) : [];

async function contentsOf(db: Reads, kind: LabelKind, { logo, ...body }: ContentsBody): Promise<LabelContents> {
  const contents: LabelContents = { ...body, shown: [...new Set(body.shown)], logo: logo === null ? null : await findLogo(db, logo) };
  const fault = contentsFault(kind, contents, await ownParts(db, kind));
  if (fault) refuse(fault);
  return contents;
}

async function findLogo(db: Reads, file: number): Promise<NonNullable<LabelContents['logo']>> {
  const [picture] = await selectPictures(db, [file]);
  const size = picture ? await sharp(picture.bytes).metadata() : null;
  return size ? { file, width: size.width, height: size.height } : refuse({ code: 'labels.noLogo', name: `File ${file}` });
}

/** The pictures that labels have on them. */
export async function loadLogos(db: Reads, faces: readonly Pick<LabelFace, 'logo'>[]): Promise<Logos> {
  const files = [...new Set(faces.flatMap((f) => (f.logo ? [f.logo.file] : [])))];
  if (files.length === 0) return NO_LOGOS;
  const pictures = await selectPictures(db, files);
  return new Map(await Promise.all(pictures.map(async ({ id, bytes }) => [id, await greysOf(bytes)] as const)));
}

/** Labels with all that the house wants on them (D2), in the order in which they are asked for. */
export async function facesOf(db: Reads, site: number, requests: readonly LabelRequest[]): Promise<LabelFace[]> {
  const contents = await liveContents(db);
  const said = await sayMore(db, site, contents, requests);
  const faces: LabelFace[] = [];
  for (const [n, request] of requests.entries()) {
    const more = said[n];
    faces.push(composeLabel(more ? { ...request, more } : request, contents[request.kind]));
    // Who scans has their turn between hundreds of them.
    if (n % 100 === 99) await immediately();
  }
  return faces;
}

async function liveContents(db: Reads): Promise<Readonly<Record<LabelKind, LabelContents>>> {
  const contents = await selectContents(db);
  const hasOwn = (kind: LabelKind): boolean => contents[kind].shown.some(isOwn);
  const kinds = LABEL_KINDS.filter(hasOwn);
  if (kinds.length === 0) return contents;
  const live = { ...contents };
  for (const kind of kinds) live[kind] = withoutGivenUp(kind, contents[kind], await ownParts(db, kind));
  return live;
}

const OF_ITEM = ['supplier', 'received', 'made'];

/** What labels say beside the usual, where a house wants it; nothing is read for what is wanted nowhere. */
async function sayMore(
  db: Reads,
  site: number,
  contents: Readonly<Record<LabelKind, LabelContents>>,
  requests: readonly LabelRequest[],
): Promise<(Record<string, string> | undefined)[]> {
  const wants = (r: LabelRequest, isWanted: (key: string) => boolean): boolean => contents[r.kind].shown.some(isWanted);
  const isOfItem = (key: string): boolean => OF_ITEM.includes(key) || isOwn(key);
  const isBeside = (key: string): boolean => key === 'printed' || key === 'company';
  const items = requests.flatMap((r) =>
    (r.kind === 'item' || r.kind === 'shelf') && wants(r, isOfItem) ? [{ code: r.code, lot: (r.kind === 'item' && r.lot) || '' }] : [],
  );
  const own = items.length === 0 ? [] : await ownParts(db, 'item');
  const known = new Map(
    (items.length === 0 ? [] : await selectMore(db, site, items)).map((m) => [
      JSON.stringify([m.code, m.lot]),
      {
        ...{ supplier: m.supplier ?? '', received: writeDay(m.received), made: m.made === null ? '' : writeDay(m.made) },
        ...Object.fromEntries(own.flatMap((o) => (m.own[o.label] ? [[ownKey(o.id), `${o.label} ${m.own[o.label]}`]] : []))),
      },
    ]),
  );
  const hasBeside = requests.some((r) => wants(r, isBeside));
  const beside = hasBeside ? { printed: writeDay(await selectToday(db, site)), company: (await selectHouse(db)).company } : {};
  return requests.map((r) => {
    if (!wants(r, (key) => isOfItem(key) || isBeside(key))) return undefined;
    const ofItem = r.kind === 'item' || r.kind === 'shelf' ? known.get(JSON.stringify([r.code, (r.kind === 'item' && r.lot) || ''])) : {};
    return { ...ofItem, ...beside };
  });
}
