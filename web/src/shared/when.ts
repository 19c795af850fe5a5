const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const TIME = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })

/** A moment as the book writes it. */
export const when = (iso: string) => `${DAY.format(new Date(iso))}, ${TIME.format(new Date(iso))}`
export const moment = (ms: number) => TIME.format(new Date(ms))
export const day = (iso: string) => DAY.format(new Date(iso))
