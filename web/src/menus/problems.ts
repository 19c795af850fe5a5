import type { Problem } from '../api/client'

/** The first thing wrong at a field, or within it. */
export const problemAt = (problems: Problem[], field: string) => problems.find((p) => p.field.startsWith(field))
