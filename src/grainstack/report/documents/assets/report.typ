// How a report is set. What it says and shows comes as JSON, with the drawings of its charts, and is never read as markup.
#let report = json(bytes(sys.inputs.report))
#let (ink, muted, accent, rule) = (rgb("#1f2a33"), rgb("#5c6770"), rgb("#0b6e69"), rgb("#e3e6e8"))
#let side = 62pt // about 22 mm, which every printer can leave white
#let (above, below) = (66pt, 62pt)
#let body-size = 10pt // some ninety characters in a line
#let small = 8pt // notes and captions
#let leading = 4.5pt // between lines, for a line every 14.5 points
#let heading-sizes = (15.5pt, 12pt, 10.5pt)
#let indent = 14pt // of each level of a list
#let between = 14pt // pictures side by side
#let table-sizes = (8.6pt, 8pt, 7.5pt, 7pt, 6.5pt, 6pt, 5.5pt, 5pt) // the first that lets a table fit is taken

#set document(title: report.title, keywords: report.trace, date: none)
#set page(
  width: report.width * 1pt,
  height: report.height * 1pt,
  margin: (x: side, top: above, bottom: below),
  header: context {
    let here-page = here().page()
    if here-page == 1 { return }
    let sections = query(heading.where(level: 1))
    let begun = sections.filter(one => one.location().page() < here-page)
    let opening = sections.filter(one => one.location().page() == here-page and one.location().position().y < above + 40pt)
    set text(size: small, fill: muted)
    grid(columns: (1fr, auto), report.title, if opening != () { opening.first().body } else if begun != () { begun.last().body })
  },
  footer: context { set text(size: small, fill: muted); align(right, counter(page).display()) },
)
#set text(
  font: report.fonts, weight: report.weight, size: body-size, fill: ink,
  lang: report.language, ..if report.region != none { (region: report.region) }, hyphenate: false,
)
#set par(leading: leading, spacing: body-size)
#show strong: set text(font: report.strong-fonts, weight: report.strong-weight)
#set strong(delta: 0)
#show link: set text(fill: accent)
#show heading: it => {
  let size = heading-sizes.at(calc.min(it.level, heading-sizes.len()) - 1)
  set text(font: report.strong-fonts, weight: report.strong-weight, size: size)
  block(above: if it.level == 1 { 22pt } else { 16pt }, below: 0.6em, sticky: true, it.body)
}
#show outline.entry: set block(above: 0.7em)
#set outline.entry(fill: none)
#show figure.caption: set text(size: small, fill: muted)
#show figure.caption: set align(left)
#set figure.caption(separator: [. ])
#show figure: set block(breakable: true)

#let words(spans) = for one in spans {
  let shown = one.text.split("\n").map(line => [#line]).join(linebreak())
  let styled = if one.strong { strong(shown) } else { shown }
  if one.address == "" { styled } else { link(one.address, styled) }
}

#let passage(one) = {
  if one.kind == "heading" {
    heading(level: one.level, outlined: false, bookmarked: false, words(one.spans))
  } else if one.kind == "picture" {
    image(bytes(sys.inputs.at(one.picture)), format: "svg", width: one.width * 1pt, alt: one.alt)
  } else if one.kind == "bullet" {
    pad(left: indent * (one.level - 1), list(words(one.spans)))
  } else if one.kind == "numbered" {
    pad(left: indent * (one.level - 1), enum(enum.item(one.number, words(one.spans))))
  } else if one.kind == "continued" {
    pad(left: indent * one.level, words(one.spans))
  } else { par(words(one.spans)) }
}

#let chart(one) = pad(
  x: -one.rim * 1pt,
  image(bytes(sys.inputs.at(one.drawing)), format: "svg", width: one.width * 1pt, alt: one.alt),
)

// Figures of a column stand in line, whatever marks and letters follow them.
#let cell(one, tail) = if one.strong { strong(one.text) } else [#one.text] + box(width: tail, align(left, one.tail))

#let sheet(one) = layout(room => {
  let made(size, columns) = {
    set text(size: size)
    let tails = one.tails.map(tail => measure(tail).width)
    let aligned = one.right.map(it => if it { right } else { left })
    let flat = one.rows.map(row => row.enumerate().map(((place, it)) => cell(it, tails.at(place)))).flatten()
    let names = one.heading.enumerate().map(((place, it)) => strong(it) + h(tails.at(place)))
    let over = one.above.map(it => table.cell(colspan: it.span, align: left, strong(it.text)))
    table(
      columns: columns, align: (column, _) => aligned.at(column) + bottom, 
      inset: (column, _) => (left: if column == 0 { 0pt } else { 6pt }, right: 6pt, y: 0.28 * size),
      stroke: (_, row) => (bottom: if row < one.heads { none } else { 0.4pt + rule }),
      table.header(..over, ..names, table.hline(stroke: 0.6pt)), ..flat,
    )
  }
  let fitting = table-sizes.find(size => measure(made(size, one.right.map(_ => auto))).width <= room.width)
  if fitting == none { made(table-sizes.last(), one.right.map(_ => 1fr)) } else { made(fitting, one.right.map(_ => auto)) }
})

#let notes(lines) = for line in lines { block(above: 5pt, below: 5pt, text(size: small, fill: muted, line)) }

#let printed(one) = {
  if one.title != "" { block(above: 14pt, below: 6pt, sticky: true, strong(text(size: table-sizes.first(), one.title))) }
  // What fits on a page is not parted.
  context {
    let whole = block(breakable: false, above: 8pt, sheet(one) + notes(one.notes))
    let room = (report.width * 1pt - 2 * side, report.height * 1pt - above - below)
    if measure(whole, width: room.at(0)).height <= room.at(1) { whole } else { sheet(one) + notes(one.notes) }
  }
  v(10pt)
}

#let row(one) = {
  let shown = grid(columns: one.charts.len() * (1fr,), column-gutter: between, ..one.charts.map(chart))
  if one.caption != none {
    shown = figure(align(left, shown), caption: one.caption, supplement: report.figure, kind: image)
  }
  let whole = block(breakable: false, width: 100%, shown)
  if report.chart-pages { pagebreak(weak: true) }
  // A picture stands where it is named if it fits there; if not, the text goes on and it opens the next page.
  if one.floats and not report.chart-pages {
    context {
      let left = report.height * 1pt - below - here().position().y
      let tall = measure(whole, width: report.width * 1pt - 2 * side).height
      if tall <= left { whole } else { place(top, float: true, clearance: 14pt, whole) }
    }
  } else { whole }
}

#show title: set text(font: report.strong-fonts, weight: report.strong-weight, size: 21pt)
#show title: set block(below: 18pt)
#if report.shown-title { title() }
#if report.contents { block(below: 20pt, outline(title: none, depth: 1)) }
#for part in report.parts {
  if part.heading != "" { heading(level: part.level, part.heading) }
  for one in part.passages { if part.kept { block(sticky: true, passage(one)) } else { passage(one) } }
  for one in part.rows {
    for it in one.tables { printed(it) }
    if one.charts.len() > 0 { row(one) }
  }
  if part.caption != "" {
    counter(figure.where(kind: image)).step()
    context par(text(size: small, fill: muted)[#report.figure #counter(figure.where(kind: image)).display(). #part.caption])
  }
}
