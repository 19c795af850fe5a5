import type { Schemas } from '../api/client'

type State = Schemas['ProvingStepView']['state']

/** How a step stands, in a word or two. */
export const STATE_WORDS: Record<State, string> = {
  open: 'open',
  passed: 'as it must be',
  failed: 'not as it must be',
  skipped: 'left out',
  void: 'prove again',
}
