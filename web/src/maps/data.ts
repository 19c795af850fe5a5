import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'

/** A row of a map's file; what is left out is as usual. */
export interface Row {
  name: string
  address: number | string
  table?: string
  coding?: string
  order?: string
  scale?: number
  decimals_from?: string
  unit?: string
  unit_from?: string
  writable?: boolean
  choices?: string[]
  codes?: (number | string)[]
  no_value?: (number | string)[]
  bit?: number
  low?: number
  high?: number
  stored?: boolean
  endurance?: number
  keeps?: string
}

export interface MapFile {
  format: string
  version: number
  title: string
  registers: Row[]
  gap: number
  link_loss?: string
  offset_school?: string
  safe_off?: { writes: [string, string | number][]; off_when: [string, string | number][] }
}

export const KEY = ['register-maps']
export const EMPTY: MapFile = {
  format: 'rellux-register-map',
  version: 1,
  title: '',
  registers: [{ name: 'reading_c', address: '40001', coding: 'int16', scale: 10 }],
  gap: 0,
}

export const TABLES = [
  ['holding', 'holding'],
  ['input', 'input'],
  ['coil', 'coils'],
  ['discrete', 'discrete'],
] as const

export const CODINGS: Record<string, string> = {
  int16: '16 bits ±',
  uint16: '16 bits',
  int32: '32 bits ±',
  uint32: '32 bits',
  float32: '32 bits, float',
  bit: 'one bit',
}

export const ORDERS = [
  ['ABCD', 'AB CD'],
  ['CDAB', 'CD AB'],
  ['BADC', 'BA DC'],
  ['DCBA', 'DC BA'],
] as const

export const isLong = (coding?: string) => coding === 'int32' || coding === 'uint32' || coding === 'float32'

export const useMaps = () => useQuery({ queryKey: KEY, queryFn: () => need(api.GET('/api/v1/register-maps')) })

type MapView = Omit<Schemas['MapView'], 'map'> & { map: MapFile }

export const useMap = (key: string) =>
  useQuery({
    queryKey: [...KEY, key],
    enabled: key !== '',
    queryFn: async () => (await need(api.GET('/api/v1/register-maps/{key}', { params: { path: { key } } }))) as unknown as MapView,
  })

/** Places in both notations and the pace of a map as it stands; what it was before while it is wrong. */
export const useMeaning = (map: MapFile) =>
  useQuery({
    queryKey: [...KEY, 'meaning', map],
    queryFn: () => need(api.POST('/api/v1/register-maps/check', { body: { map: { ...map, title: map.title || 'untitled' } } })),
    placeholderData: (before) => before,
    retry: false,
  })
