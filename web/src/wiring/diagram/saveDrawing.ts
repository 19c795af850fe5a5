const KEPT = [
  'fill',
  'fill-opacity',
  'stroke',
  'stroke-width',
  'stroke-dasharray',
  'stroke-linejoin',
  'stroke-linecap',
  'opacity',
  'font-family',
  'font-size',
  'font-weight',
  'text-anchor',
  'paint-order',
]

/** The drawing as a file of its own: what the style sheet says is written into every element. */
export function saveDrawing(drawing: SVGSVGElement, name: string) {
  const copy = drawing.cloneNode(true) as SVGSVGElement
  const from = [drawing, ...drawing.querySelectorAll('*')]
  const to = [copy, ...copy.querySelectorAll('*')]
  from.forEach((element, i) => {
    const style = getComputedStyle(element)
    to[i]!.setAttribute('style', KEPT.map((k) => `${k}:${style.getPropertyValue(k)}`).join(';'))
    to[i]!.removeAttribute('class')
  })
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  const box = drawing.viewBox.baseVal
  copy.setAttribute('width', String(box.width))
  copy.setAttribute('height', String(box.height))
  saveBlob(new Blob([new XMLSerializer().serializeToString(copy)], { type: 'image/svg+xml' }), `${name}.svg`)
}

/** Hand a file to the browser to keep. */
export function saveBlob(file: Blob, name: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(file)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
