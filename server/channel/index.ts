import { loadFile, refuse, type RoomHandlers } from '#server/kernel';
import { selectPapers } from './store.ts';
import { settlePaper, takePaper } from './take-paper.ts';

export { takeDroppedOrders, watchOrders } from './drop-folder.ts';

export const channelHandlers: RoomHandlers<'channel'> = {
  'channel.papers': async (db, { me }) => ({
    open: await selectPapers(db, me.site.id, 'open'),
    past: await selectPapers(db, me.site.id, 'past'),
  }),
  'channel.take': async (trx, { me, body }) => {
    const file = (await loadFile(trx, body.file)) ?? refuse({ code: 'file.unknown', id: body.file });
    return takePaper(trx, { file: { name: file.name, bytes: file.bytes }, site: me.site.id, person: me.id });
  },
  'channel.settle': async (trx, { me, params, body }) => ({
    ok: true,
    ...(await settlePaper(trx, { site: me.site.id, person: me.id, paper: params.id, how: body.how })),
  }),
};
