import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, Route, Routes, useLocation, useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { Me } from '#contract/people';
import {
  Button,
  ButtonLink,
  Empty,
  forgetSite,
  read,
  sayScanned,
  ScanLine,
  send,
  sound,
  switchSite,
  useIsCut,
  useScanner,
  useSend,
} from '#web/base';
import { FloorPage, theFloor } from '#web/hands';
import { RowStrip } from './row.tsx';
import { Home } from './home.tsx';
import { pageOf, useLoadPages } from './page.tsx';
import { Shortcuts } from './shortcuts.tsx';
import { pathOfScan } from './scan-path.ts';

// Fields that open something come with the forms; the first page is there before them.
const SiteChoice = lazy(() => import('#web/forms').then((forms) => ({ default: forms.Select<number> })));
const UnknownCode = lazy(() => import('./unknown-code.tsx').then((part) => ({ default: part.UnknownCode })));
const Items = pageOf(() => import('#web/items').then((room) => room.Items));
const ItemPage = pageOf(() => import('#web/items').then((room) => room.ItemPage));
const NewItem = pageOf(() => import('#web/items').then((room) => room.NewItem));
const PriceLists = pageOf(() => import('#web/items').then((room) => room.PriceLists));
const ShelfLabels = pageOf(() => import('#web/items').then((room) => room.ShelfLabels));
const ItemImport = pageOf(() => import('#web/items').then((room) => room.ItemImport));
const OwnFields = pageOf(() => import('#web/items').then((room) => room.OwnFields));
const StockList = pageOf(() => import('#web/stock').then((room) => room.StockList));
const Holds = pageOf(() => import('#web/stock').then((room) => room.Holds));
const Places = pageOf(() => import('#web/places').then((room) => room.Places));
const BinPage = pageOf(() => import('#web/places').then((room) => room.BinPage));
const BinBuilder = pageOf(() => import('#web/places').then((room) => room.BinBuilder));
const BinImport = pageOf(() => import('#web/places').then((room) => room.BinImport));
const SitePage = pageOf(() => import('#web/places').then((room) => room.SitePage));
const Plan = pageOf(() => import('#web/plan').then((room) => room.Plan), { isHeavy: true });
const Unplaced = pageOf(() => import('#web/moves').then((room) => room.Unplaced));
const Ledger = pageOf(() => import('#web/stock').then((room) => room.Ledger));
const Lots = pageOf(() => import('#web/lots').then((room) => room.Lots));
const SerialPage = pageOf(() => import('#web/lots').then((room) => room.SerialPage));
const Purchases = pageOf(() => import('#web/purchasing').then((room) => room.Purchases));
const NewPurchase = pageOf(() => import('#web/purchasing').then((room) => room.NewPurchase));
const PurchasePage = pageOf(() => import('#web/purchasing').then((room) => room.PurchasePage));
const PurchaseImport = pageOf(() => import('#web/purchasing').then((room) => room.PurchaseImport));
const Reorder = pageOf(() => import('#web/purchasing').then((room) => room.Reorder));
const Suppliers = pageOf(() => import('#web/purchasing').then((room) => room.Suppliers));
const Expected = pageOf(() => import('#web/receiving').then((room) => room.ExpectedOrders));
const Deliveries = pageOf(() => import('#web/receiving').then((room) => room.Deliveries));
const ReceiptImport = pageOf(() => import('#web/receiving').then((room) => room.ReceiptImport));
const TakeBack = pageOf(() => import('#web/receiving').then((room) => room.TakeBack));
const Failures = pageOf(() => import('#web/receiving').then((room) => room.Failures));
const Notices = pageOf(() => import('#web/receiving').then((room) => room.Notices));
const NoticePage = pageOf(() => import('#web/receiving').then((room) => room.NoticePage));
const UnitPage = pageOf(() => import('#web/stock').then((room) => room.UnitPage));
const Review = pageOf(() => import('#web/receiving').then((room) => room.Review));
const PutAway = pageOf(() => import('#web/carrying').then((room) => room.PutAwayPage));
const Refill = pageOf(() => import('#web/carrying').then((room) => room.RefillPage));
const Carries = pageOf(() => import('#web/carrying').then((room) => room.Carries));
const Orders = pageOf(() => import('#web/orders').then((room) => room.Orders));
const Counter = pageOf(() => import('#web/shipping').then((room) => room.Counter));
const Customers = pageOf(() => import('#web/orders').then((room) => room.Customers));
const OrderImport = pageOf(() => import('#web/orders').then((room) => room.OrderImport));
const SentOrders = pageOf(() => import('#web/channel').then((room) => room.SentOrders));
const OrderPage = pageOf(() => import('#web/orders').then((room) => room.OrderPage));
const NewOrder = pageOf(() => import('#web/orders').then((room) => room.NewOrder));
const ProposeRounds = pageOf(() => import('#web/picking').then((room) => room.ProposeRounds));
const Rounds = pageOf(() => import('#web/picking').then((room) => room.Rounds));
const Bench = pageOf(() => import('#web/shipping').then((room) => room.Bench));
const Counts = pageOf(() => import('#web/counting').then((room) => room.Counts));
const CountPage = pageOf(() => import('#web/counting').then((room) => room.CountPage));
const PeoplePage = pageOf(() => import('#web/people').then((room) => room.PeoplePage));
const OwnSecret = pageOf(() => import('#web/people').then((room) => room.OwnSecret));
const LabelContents = pageOf(() => import('#web/labels').then((room) => room.LabelContents));
const Printer = pageOf(() => import('#web/labels').then((room) => room.Printer));

async function signOut(): Promise<void> {
  await send('people.signOut', {});
  // A bench that is opened without a connection is nobody's then.
  await theFloor().signedIn(null);
  forgetSite();
  window.location.assign('/');
}

/** The desk: the row across the top, the scan line beside it, and the work of the open station below. */
export function Desk({ me }: { me: Me }) {
  const go = useNavigate();
  const workAt = useSend('people.workAt', { onDone: (there) => switchSite(there.site.id, '/') });
  const [unknown, setUnknown] = useState<string | null>(null);
  const scan = async (code: string): Promise<void> => {
    try {
      const found = await read('desk.scan', { query: { code } });
      const path = pathOfScan(found);
      sound(path ? 'right' : 'look');
      if (path) void go(path);
      else if (found.kind === 'several')
        toast('This code stands for several things. Which is meant?', {
          duration: Infinity,
          closeButton: true,
          description: found.choices.map((one) => (
            <Link key={sayScanned(one)} to={pathOfScan(one) ?? '/'} className="block underline" onClick={() => toast.dismiss()}>
              {sayScanned(one)}
            </Link>
          )),
        });
      else if (found.kind === 'elsewhere') toast(`${found.text} is a bin of ${found.sites.join(' and of ')}.`);
      else setUnknown(code.trim());
    } catch (error) {
      sound('wrong');
      toast.error((error as Error).message);
    }
  };
  useScanner((code) => void scan(code), { under: true });
  useLoadPages();
  const isCut = useIsCut();
  // The bench works on without a connection, and says itself what it still has to tell.
  const isBench = useLocation().pathname.startsWith('/bench');
  const [waiting, setWaiting] = useState(false);
  useEffect(() => {
    const onWaiting = (event: Event): void => setWaiting((event as CustomEvent<boolean>).detail);
    window.addEventListener('dockrow:waiting', onWaiting);
    return () => window.removeEventListener('dockrow:waiting', onWaiting);
  }, []);
  return (
    <div className="mx-auto max-w-[1600px] px-4 pb-8">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1 py-2">
        <Link to="/" className="code text-3xl hover:opacity-70">
          Dock Row
        </Link>
        <div className={`max-w-full ${waiting || isCut ? 'w-56' : 'w-80'}`}>
          <ScanLine onScan={(code) => void scan(code)} hint="Scan or type any code ( / )" />
        </div>
        {(waiting || (isCut && !isBench)) && (
          <span aria-live="polite" data-testid="connection" className="leading-tight font-semibold text-wrong">
            No connection
            <span className="block text-xs">{waiting ? 'kept, sending again …' : 'what stands here may be old'}</span>
          </span>
        )}
        <nav className="ml-auto flex flex-wrap items-center justify-end gap-1" aria-label="Beside the row">
          <ButtonLink look="quiet" to="/items">
            Items
          </ButtonLink>
          <ButtonLink look="quiet" to="/places">
            Places
          </ButtonLink>
          <ButtonLink look="quiet" to="/ledger">
            Ledger
          </ButtonLink>
          <ButtonLink look="quiet" to="/floor">
            Floor
          </ButtonLink>
          <ButtonLink look="quiet" to="/printer">
            Printer
          </ButtonLink>
          {me.role === 'lead' && (
            <ButtonLink look="quiet" to="/people">
              People
            </ButtonLink>
          )}
          <Suspense fallback={<span className="px-2">{me.site.name}</span>}>
            <SiteChoice
              label="Site"
              hideLabel
              className="max-w-56"
              value={me.site.id}
              onChange={(site) => workAt.mutate({ body: { site } })}
              options={me.sites.map((s) => [s.id, s.name] as const)}
            />
          </Suspense>
          <Link to="/me" className="max-w-44 truncate px-2 text-sm" title={`${me.name}: your password and PIN`}>
            {me.name}
            <span className="block text-soft">{me.role}</span>
          </Link>
          <Button onClick={() => void signOut()}>Sign out</Button>
        </nav>
      </header>
      <RowStrip />
      <main className="pt-4">
        <Suspense fallback={<p className="text-soft">One moment …</p>}>
          <Routes>
            <Route index element={<Home />} />
            <Route path="items" element={<Items />} />
            <Route path="items/new" element={<NewItem />} />
            <Route path="items/price-lists" element={<PriceLists />} />
            <Route path="items/shelf-labels" element={<ShelfLabels />} />
            <Route path="items/import" element={<ItemImport />} />
            <Route path="items/own-fields" element={<OwnFields />} />
            <Route path="stock" element={<StockList />} />
            <Route path="holds" element={<Holds />} />
            <Route path="lots" element={<Lots />} />
            <Route path="items/:id/serials/:serial" element={<SerialPage />} />
            <Route path="items/:id" element={<ItemPage />} />
            <Route path="places" element={<Places />} />
            <Route path="places/build" element={<BinBuilder />} />
            <Route path="places/import" element={<BinImport />} />
            <Route path="places/site" element={<SitePage />} />
            <Route path="places/plan" element={<Plan />} />
            <Route path="places/unplaced" element={<Unplaced />} />
            <Route path="bins/:id" element={<BinPage />} />
            <Route path="ledger" element={<Ledger />} />
            <Route path="expected" element={<Expected />} />
            <Route path="purchasing" element={<Purchases />} />
            <Route path="purchasing/new" element={<NewPurchase />} />
            <Route path="purchasing/import" element={<PurchaseImport />} />
            <Route path="purchasing/reorder" element={<Reorder />} />
            <Route path="purchasing/suppliers" element={<Suppliers />} />
            <Route path="purchasing/:id" element={<PurchasePage />} />
            <Route path="deliveries" element={<Deliveries />} />
            <Route path="deliveries/import" element={<ReceiptImport />} />
            <Route path="deliveries/return" element={<TakeBack />} />
            <Route path="deliveries/failures" element={<Failures />} />
            <Route path="deliveries/notices" element={<Notices />} />
            <Route path="deliveries/notices/:id" element={<NoticePage />} />
            <Route path="units/:sscc" element={<UnitPage />} />
            <Route path="deliveries/:id" element={<Review />} />
            <Route path="put-away" element={<PutAway />} />
            <Route path="refill" element={<Refill />} />
            <Route path="carries" element={<Carries />} />
            <Route path="carries/:id" element={<Carries />} />
            <Route path="orders" element={<Orders />} />
            <Route path="counter" element={<Counter />} />
            <Route path="customers" element={<Customers />} />
            <Route path="orders/new" element={<NewOrder />} />
            <Route path="orders/import" element={<OrderImport />} />
            <Route path="orders/sent" element={<SentOrders />} />
            <Route path="orders/:id" element={<OrderPage />} />
            <Route path="rounds" element={<Rounds />} />
            <Route path="rounds/propose" element={<ProposeRounds />} />
            <Route path="rounds/:id" element={<Rounds />} />
            <Route path="bench" element={<Bench me={me} />} />
            <Route path="bench/:id" element={<Bench me={me} />} />
            <Route path="counts" element={<Counts />} />
            <Route path="counts/:id" element={<CountPage />} />
            <Route path="floor" element={<FloorPage />} />
            <Route path="printer" element={<Printer />} />
            <Route path="printer/labels" element={<LabelContents />} />
            <Route path="people" element={<PeoplePage me={me} />} />
            <Route path="me" element={<OwnSecret me={me} />} />
            <Route path="*" element={<Empty title="There is nothing at this address.">Choose a station of the row above.</Empty>} />
          </Routes>
        </Suspense>
      </main>
      <Shortcuts />
      {unknown !== null && (
        <Suspense fallback={null}>
          <UnknownCode key={unknown} code={unknown} onClose={() => setUnknown(null)} />
        </Suspense>
      )}
    </div>
  );
}
