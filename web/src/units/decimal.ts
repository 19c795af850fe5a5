const comma = new Intl.NumberFormat(globalThis.navigator?.language).format(1.5).includes(',')

/** A number's text with the decimal mark of the browser's language: a comma where it has one, else the point. */
export const mark = (text: string, withComma = comma) => (withComma ? text.replace('.', ',') : text)

/** Whether the browser's language writes 57,5. */
export const writesComma = () => comma
