/** How what a rig does is spoken of: what does it, what it does, what stays on when it should not, how it is called for and ended. */
interface Words {
  noun: string
  does: string
  effect: string
  ask: string
  off: string
  run: string
}

const HEATS: Words = { noun: 'heater', does: 'heats', effect: 'heat', ask: 'Heat', off: 'Heat off', run: 'a heat-up' }
const COOLS: Words = { noun: 'cooler', does: 'cools', effect: 'cooling', ask: 'Cool', off: 'Cooling off', run: 'a cool-down' }

const BURNS: Words = { ...HEATS, noun: 'fan', does: 'blows' }

/** `burns`: a fan brings up a fire. */
export const wordsOf = (effect: string | undefined, burns = false): Words => (effect === 'cools' ? COOLS : burns ? BURNS : HEATS)
