/** Asks the shell to press safe-off, from the palette. */
export const SAFE_OFF = 'rellux:safe-off'
