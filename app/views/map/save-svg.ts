/** A drawing on the page as a file of its own: what the page's theme gives it is written out. */
export function svgText(element: SVGSVGElement, width: number, height: number): string {
  const style = getComputedStyle(document.documentElement)
  const copy = element.cloneNode(true) as SVGSVGElement
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  copy.setAttribute('width', String(Math.ceil(width)))
  copy.setAttribute('height', String(Math.ceil(height)))
  copy.setAttribute('viewBox', `-16 -16 ${Math.ceil(width)} ${Math.ceil(height)}`)
  for (const name of ['class', 'role', 'tabindex', 'aria-label']) copy.removeAttribute(name)
  for (const one of copy.querySelectorAll('*')) {
    for (const name of [...one.getAttributeNames()].filter((each) =>
      /^(class|role|tabindex|aria-.*|data-.*)$/.test(each),
    ))
      one.removeAttribute(name)
  }
  const ground = document.createElementNS('http://www.w3.org/2000/svg', 'rect')
  for (const [name, value] of Object.entries({
    x: '-16',
    y: '-16',
    width: '100%',
    height: '100%',
    fill: 'var(--ground)',
  }))
    ground.setAttribute(name, value)
  copy.prepend(ground)
  return new XMLSerializer()
    .serializeToString(copy)
    .replace(/var\(--([\w-]+)\)/g, (_, name: string) =>
      style.getPropertyValue(`--${name}`).trim().replace(/"/g, "'"),
    )
}
