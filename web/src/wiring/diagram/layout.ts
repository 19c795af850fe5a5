import ELK from 'elkjs/lib/elk-api'
import workerUrl from 'elkjs/lib/elk-worker.min.js?url'
import type { Schemas } from '../../api/client'
import type { List } from '../edits'
import { graphOf, placedOf, type Placed } from './graph'

const engine = new ELK({ workerFactory: () => new Worker(workerUrl) })

/** Lay drawings out, off the main thread: layered from left to right, orthogonal, pins at fixed places. */
export async function layout(wiring: List, drawings: Schemas['CircuitDrawing'][]): Promise<Placed[]> {
  const start = performance.now()
  const placed = await Promise.all(
    drawings.map(async (drawing) => placedOf(wiring, drawing, await engine.layout(graphOf(wiring, drawing)))),
  )
  performance.measure('wiring layout', { start }) // read by benchmarks/layout.py
  return placed
}
