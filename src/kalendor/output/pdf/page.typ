// Sheets typeset as pages. All that stands on them comes as data: nothing of a report is ever read as markup.
// `only` says what is set: "all"; a "part" (of a report, or reports of a pack), whose pages have no numbers yet; the "cover" of a
// pack with its page of what moved; or the "numbers" to be laid over pages that are joined.
#let given = json(bytes(sys.inputs.data))
#let charts = given.charts
#let only = given.only

#let ink = rgb("#1E2A2F")
#let quiet = rgb("#56615F")
#let rule = rgb("#D8D0BE")
#let petrol = if given.cover != none and given.cover.accent != "" { rgb(given.cover.accent) } else { rgb("#0D5A6A") }
#let oxblood = rgb("#9A2A2A")
#let marigold = rgb("#7A4C06")
#let sans = ("Kalendor Sans", "DejaVu Sans", "Droid Sans Fallback", "Noto Sans Devanagari", "Noto Sans Thai",
  "Noto Sans Bengali", "Noto Sans Tamil", "Noto Sans Ethiopic", "Noto Emoji")
#let serif = ("Kalendor Serif",) + sans.slice(1)
#let thin = 0.6pt + ink
#let firm = 1pt + ink

#set document(title: given.title, author: "Kalendor", date: none)
#set text(font: sans, size: 9pt, fill: ink, lang: "en", number-width: "tabular", hyphenate: false)
#set par(leading: 0.5em)
#set table(stroke: none)
#show strong: set text(weight: 600)
#show heading: set text(size: 1em, weight: 600)
#show heading: it => it.body

// The height of a line of numbers or capitals in the product's type, of its size.
#let cap = 0.698

// A rule over a cell, drawn within it: a border would also be drawn where a page ends above it.
#let ruled(over, pad, body) = if over == none { body } else {
  place(top + left, dx: -4pt, dy: -pad, line(length: 100% + 8pt, stroke: over))
  body
}

// The double rule under a grand total, drawn within the cell likewise.
#let doubled(pad, body) = {
  for off in (0pt, 1.7pt) { place(bottom + left, dx: -4pt, dy: pad + off, line(length: 100% + 8pt, stroke: thin)) }
  body
}

// A cell as data has it: a text, or a text with what is to be told of it ("-": below zero, "~": a word in the place of a
// number, "!": not placed) and how far it is set in.
#let shades = ("-": oxblood, "~": quiet, "!": marigold)
#let face(it) = {
  let own = text(fill: shades.at(it.tone, default: ink), weight: if it.tone == "b" { 600 } else { 400 }, it.text)
  if it.inset > 0 or it.above > 0 { pad(left: 10pt * it.inset, top: it.above * 1pt, own) } else { own }
}

#let total(doc, row) = {
  let high = doc.pad * 1pt
  let grand = row.role == "grand"
  let over = if grand { firm } else { thin }
  row.cells.enumerate().map(((k, it)) => {
    let face = strong(if type(it) == str { it } else { face((..it, tone: if it.tone == "b" { "" } else { it.tone })) })
    if k < doc.labels.len() {
      table.cell(breakable: false, ruled(if grand { firm }, high, face))
    } else if k in doc.bare { [] } else {
      table.cell(breakable: false, ruled(over, high, if grand { doubled(high, face) } else { face }))
    }
  })
}

// The bookmarks of the groups that begin here: a group's name itself is repeated, and would be marked on each page.
#let marks(it) = for mark in it.marks {
  place(hide(heading(level: mark.depth + 1, outlined: false, bookmarked: true, mark.label)))
}

// What stands in the table for one thing of the outline: a group's name, repeated on each page; lines as they are; or lines
// kept together with the totals after them. A line's cells are made in a loop, not by a function for each: every call of a
// function is remembered. What is set in is so by its cell's own inset, not by a box of its own.
#let item(doc, it) = {
  if it.kind == "group" {
    (table.header(level: it.depth + 1, repeat: true, table.cell(inset: 0pt)[],
      table.cell(colspan: doc.many,
        inset: (left: 4pt + 10pt * (it.depth - 1), right: 4pt, top: if it.space { 14pt } else { doc.pad * 1pt + 3.5pt }, bottom: doc.pad * 1pt),
        text(weight: 600, fill: if it.flagged { marigold } else { ink }, it.label))),)
  } else if it.kind == "lines" {
    (table.cell(rowspan: it.rows.len(), breakable: true, inset: 0pt, marks(it)),)
    for row in it.rows {
      for cell in row {
        (if type(cell) == str { cell } else {
          let told = if cell.tone == "" { cell.text } else if cell.tone == "b" { strong(cell.text) } else { text(fill: shades.at(cell.tone), cell.text) }
          if cell.above > 0 { table.cell(inset: (left: 4pt + 10pt * cell.inset, top: doc.pad * 1pt + cell.above * 1pt), told) }
          else if cell.inset > 0 { table.cell(inset: (left: 4pt + 10pt * cell.inset), told) }
          else { told }
        },)
      }
    }
  } else {
    (table.cell(rowspan: it.rows.len(), breakable: false, inset: 0pt, marks(it)),)
    for row in it.rows {
      if row.role != "line" { total(doc, row) } else { for cell in row.cells { (if type(cell) == str { cell } else { face(cell) },) } }
    }
  }
}

// The heights of the rows of an outline: known for lines that stand on one line, so that nothing has to be measured.
#let heights(doc, it) = if it.kind == "group" { (auto,) } else { it.beyond.map(one => if one == 0 { doc.high } else { auto }) }

#let heads(doc) = {
  let last = doc.headings.len() - 1
  let found = ()
  for (r, row) in doc.headings.enumerate() {
    found.push(table.cell(inset: 0pt)[])
    let under = if r == last { (bottom: firm) } else { (:) }
    for label in doc.labels {
      found.push(table.cell(stroke: under, align: left + bottom, text(fill: quiet, size: doc.head * 1pt, if r == last { label } else { "" })))
    }
    for (k, name) in doc.listed_names.enumerate() {
      found.push(table.cell(stroke: under, align: (if doc.listed.at(k) { right } else { left }) + bottom,
        text(fill: quiet, size: doc.head * 1pt, if r == last { name } else { "" })))
    }
    for span in row {
      if span.gap { found.push([]) }
      let own = if r == last { under } else if span.label != "" { (bottom: 0.6pt + if span.period { petrol } else { ink }) } else { (:) }
      let face = text(size: doc.head * 1pt, weight: if span.period { 600 } else { 400 }, fill: if span.period { petrol } else { quiet }, span.label)
      found.push(table.cell(colspan: span.columns, stroke: own, align: (if r == last and span.columns == 1 { right } else { center }) + bottom, face))
    }
  }
  found
}

// What a row's setting depends on, and no more: each call of a function weighs all that it is given.
#let of(doc, panel) = (labels: doc.labels, listed: doc.listed, listed_names: doc.listed_names, pad: doc.pad,
  head: doc.head, label_widths: doc.label_widths, listed_widths: doc.listed_widths, columns: panel.columns, headings: panel.headings,
  bare: panel.bare, many: panel.many, high: doc.pad * 2pt + doc.size * cap * 1pt)

#let sheet(doc, parts) = {
  let tracks = (0pt, ..doc.label_widths.map(w => w * 1pt), ..doc.listed_widths.map(w => w * 1pt),
    ..doc.columns.map(c => if c.gap { (9pt, c.width * 1pt) } else { (c.width * 1pt,) }).flatten())
  for (n, part) in parts.enumerate() {
    if n > 0 { pagebreak(weak: true) }
    let sides = (left, ..doc.labels.map(_ => left), ..doc.listed.map(n => if n { right } else { left }),
      ..doc.columns.map(c => { let own = if c.numeric { right } else { left }; if c.gap { (left, own) } else { (own,) } }).flatten())
    table(columns: tracks, inset: (x: 4pt, y: doc.pad * 1pt), align: sides,
      rows: (auto,) * doc.headings.len() + part.map(it => heights(doc, it)).flatten(),
      table.header(level: 1, repeat: true, ..heads(doc)),
      ..for it in part { item(doc, it) })
  }
}

// The foot's line: what stands on its left, and the number of the page, where each of them is set.
#let foot(left, number, size) = text(size: size, fill: quiet, {
  if left == none { hide(line(length: 100%, stroke: 0.5pt)) } else { line(length: 100%, stroke: 0.5pt + rule) }
  v(-4pt)
  [#if left == none { hide[x] } else { left.join(h(14pt)) } #h(1fr) #if number [page #context counter(page).display() of #context counter(page).final().first()]]
})

// A report, or a part of one: the first begins with its title and what is told of it, the last ends with its notes. A part
// has no table of the same number as another's, since tags are named by it.
#let report(doc, n) = {
  set page(
    paper: doc.paper, flipped: doc.across, margin: (x: 42pt, top: 58pt, bottom: 54pt),
    header: context {
      // the page that bears the title itself does not say it again: it says whose it is and, in a pack, which pack
      let titled = query(<title>).any(it => it.location().page() == here().page())
      let organisation = if given.cover == none { doc.organisation } else { given.cover.organisation }
      let whose = if organisation == "" { () } else { (organisation,) }
      let said = whose + if not titled { (doc.title,) } else if given.cover != none { (given.title,) } else { () }
      if said.len() == 0 { return }
      text(size: doc.least * 1pt, fill: quiet, {
        block(width: 100%, below: 4pt, [#said.join(" · ") #h(1fr) #if not titled { doc.under } else if given.cover != none { given.cover.period }])
        line(length: 100%, stroke: 0.5pt + rule)
      })
    },
    footer: foot(doc.foot, only == "all", doc.least * 1pt))
  set text(size: doc.size * 1pt)
  for _ in range(doc.tables) { place(hide(table(columns: 1)[])) }
  if doc.begins {
    [#metadata(none) <title>]
    [#metadata(none) #label("report-" + str(n))]
    block(below: 9pt, text(font: serif, size: 18pt, weight: 600, heading(level: 1, doc.title)))
    block(below: 10pt, text(size: calc.max(8.5, doc.least) * 1pt, fill: quiet, doc.under))
    if doc.headline.len() > 0 { block(below: 12pt, text(font: serif, size: 11pt, par(leading: 0.7em, doc.headline.join(" ")))) }
    if doc.chart >= 0 { block(below: 12pt, image(bytes(charts.at(doc.chart)), format: "svg", width: 100%, alt: doc.alternative)) }
  } else { place(hide(heading(level: 1, bookmarked: false, doc.title))) }
  for (n, panel) in doc.panels.enumerate() {
    let caption = if panel.caption != "" { block(below: 6pt, text(size: doc.least * 1pt, fill: quiet, panel.caption)) }
    if doc.stacked {
      if n > 0 { v(16pt, weak: true) }
      block(breakable: false, { caption; sheet(of(doc, panel), panel.parts) })
    } else {
      if n > 0 { pagebreak() }
      caption
      sheet(of(doc, panel), panel.parts)
    }
  }
  if doc.ends {
    for note in doc.footnotes { block(above: 6pt, text(size: calc.max(8.5, doc.least) * 1pt, note)) }
    block(above: 12pt, text(size: doc.least * 1pt, fill: quiet, doc.tie))
    for note in doc.notes { block(above: 4pt, text(size: doc.least * 1pt, fill: quiet, note)) }
  }
}

// Pages that bear nothing but their number: runs of pages of one size.
#if only == "numbers" {
  for run in given.runs {
    for _ in range(run.pages) {
      page(width: run.width * 1pt, height: run.height * 1pt, margin: (x: run.side * 1pt, top: 58pt, bottom: 54pt),
        footer: foot(none, true, run.size * 1pt))[]
    }
  }
}
// The first page of a pack: whose it is, its title and period, and its reports, each with its headline and its page.
#let covered = given.cover != none and only in ("all", "cover")
#if covered {
  set page(paper: given.cover.paper, margin: (x: 64pt, top: 96pt, bottom: 54pt), footer: foot((), only == "all", 8pt))
  if given.cover.mark.len() > 0 {
    block(below: 18pt, image(bytes(given.cover.mark), format: given.cover.kind, height: 44pt, alt: if given.cover.organisation != "" { given.cover.organisation } else { "Mark" }))
  }
  if given.cover.organisation != "" { block(below: 18pt, text(font: serif, size: 14pt, fill: quiet, given.cover.organisation)) }
  block(below: 14pt, text(font: serif, size: 30pt, weight: 600, given.title))
  block(below: 10pt, text(size: 12pt, weight: 600, fill: petrol, given.cover.period))
  block(below: 26pt, line(length: 100%, stroke: firm))
  for (n, own) in given.cover.contents.enumerate() {
    block(below: 14pt, breakable: false, context {
      let (there, at) = if only == "cover" { ("kalendor:report-" + str(n), own.page) } else {
        let found = query(label("report-" + str(n))).first().location()
        (found, counter(page).at(found).first())
      }
      block(below: 6pt, width: 100%, link(there, text(font: serif, size: 13pt, weight: 600, [#own.title #h(1fr) #at])))
      text(size: 9.5pt, fill: quiet, par(leading: 0.6em, own.said))
    })
  }
}
// What moved since the editions before, a line a report.
#if covered and given.cover.moves.len() > 0 {
  set page(paper: given.cover.paper, margin: (x: 64pt, top: 72pt, bottom: 54pt), footer: foot((), only == "all", 8pt))
  block(below: 16pt, heading(level: 1, text(font: serif, size: 20pt, weight: 600, [What moved])))
  set text(size: 9pt)
  let head = ("Report", "Before", "Now", "Change").enumerate().map(((k, it)) => table.cell(align: (if k > 0 { right } else { left }) + bottom, stroke: (bottom: firm), text(fill: quiet, it)))
  table(
    columns: (1fr, auto, auto, auto), inset: (x: 6pt, y: 6pt), align: (left, right, right, right),
    table.header(..head),
    ..given.cover.moves.map(m => {
      let (title, figure, since, then, now, change, percent, line) = m
      let under = (bottom: 0.6pt + rule)
      let tone(it) = text(fill: if it.starts-with("(") or it.starts-with("−") { oxblood } else { ink }, it)
      (table.cell(stroke: under, [#strong(title) \ #text(fill: quiet, [#figure, since #since]) #if line != "" [ \ #text(fill: quiet, [most: #line])]]),
       table.cell(stroke: under, then), table.cell(stroke: under, strong(now)),
       table.cell(stroke: under, [#tone(change) #if percent != "" [ \ #text(fill: quiet, tone(percent))]]))
    }).flatten(),
  )
}
#for (n, doc) in given.reports.enumerate() { report(doc, n) }
