import { lazy, Suspense } from 'react'
import { Navigate, Route, Routes } from 'react-router'
import { Guard } from './shared/Guard'
import { Loading, Lost } from './shared/states'
import { RigShell } from './shell/RigShell'
import { Shell } from './shell/Shell'
import { Workshop } from './workshop/Workshop'

const NewRig = lazy(() => import('./purpose/NewRig'))
const Purpose = lazy(() => import('./purpose/Purpose'))
const Parts = lazy(() => import('./parts/Parts'))
const Wiring = lazy(() => import('./wiring/Wiring'))
const Proving = lazy(() => import('./proving/Proving'))
const Setup = lazy(() => import('./setup/Setup'))
const Guarding = lazy(() => import('./guarding/Guarding'))
const Tuning = lazy(() => import('./tuning/Tuning'))
const Profiles = lazy(() => import('./profiles/Profiles'))
const Runs = lazy(() => import('./runs/Runs'))
const ImportLog = lazy(() => import('./runs/ImportLog'))
const Calibration = lazy(() => import('./calibration/Calibration'))
const Maps = lazy(() => import('./maps/Maps'))
const Equipment = lazy(() => import('./equipment/Equipment'))
const Controllers = lazy(() => import('./menus/Controllers'))
const Library = lazy(() => import('./library/Library'))
const Questions = lazy(() => import('./questions/Questions'))
const PartQuestion = lazy(() => import('./parts/PartQuestion'))
const BenchView = lazy(() => import('./bench/BenchView'))
const Wall = lazy(() => import('./bench/Wall'))
const Book = lazy(() => import('./book/Book'))
const Zones = lazy(() => import('./zones/Zones'))
const Chamber = lazy(() => import('./zones/Chamber'))

export function App() {
  return (
    <Shell>
      <Guard>
        <Suspense fallback={<Loading />}>
          <Routes>
            <Route path="/" element={<Workshop />} />
            <Route path="/new" element={<NewRig />} />
            <Route path="/library" element={<Library />} />
            <Route path="/equipment" element={<Equipment />} />
            <Route path="/maps" element={<Maps />} />
            <Route path="/controllers" element={<Controllers />} />
            <Route path="/wall" element={<Wall />} />
            <Route path="/rigs/:slug/bench" element={<BenchView />} />
            <Route path="/zones" element={<Zones />} />
            <Route path="/zones/:id" element={<Chamber />} />
            <Route path="/questions" element={<Questions />} />
            <Route path="/questions/:key" element={<Questions />} />
            <Route path="/rigs/:slug" element={<RigShell />}>
              <Route index element={<Navigate to="purpose" replace />} />
              <Route path="purpose" element={<Purpose />} />
              <Route path="parts" element={<Parts />} />
              <Route path="parts/:key" element={<PartQuestion />} />
              <Route path="wiring" element={<Wiring />} />
              <Route path="proving" element={<Proving />} />
              <Route path="setup" element={<Setup />} />
              <Route path="guarding" element={<Guarding />} />
              <Route path="tuning" element={<Tuning />} />
              <Route path="profiles" element={<Profiles />} />
              <Route path="runs" element={<Runs />} />
              <Route path="runs/import" element={<ImportLog />} />
              <Route path="runs/:run" element={<Runs />} />
              <Route path="calibration" element={<Calibration />} />
              <Route path="book" element={<Book />} />
            </Route>
            <Route path="*" element={<Lost />} />
          </Routes>
        </Suspense>
      </Guard>
    </Shell>
  )
}
