#let data = json("data.json")
#let ink = rgb("#22303A")
#let quiet = rgb("#5D6468")
#let tide = rgb("#1F6F78")
#let hair = 0.4pt + rgb("#D9D3C7")
#let body-font = ("Instrument Sans", "DejaVu Sans")
#let head-font = ("Newsreader", "DejaVu Serif")

#set document(title: data.title + ", " + data.project)
#set page(
  paper: "a4",
  margin: (x: 18mm, top: 18mm, bottom: 20mm),
  footer: context {
    set text(8pt, fill: quiet)
    grid(columns: (1fr, auto), [#data.project], [#counter(page).display("1 of 1", both: true)])
  },
)
#set text(font: body-font, size: 9.5pt, fill: ink, lang: "en", hyphenate: true)
#set par(leading: 0.6em)
#show heading: set text(font: head-font, weight: "medium", fill: ink)
#show heading.where(level: 1): set text(19pt)
#show heading.where(level: 2): it => block(above: 1.6em, below: 0.8em, text(13pt, it.body))
#show heading.where(level: 3): it => block(above: 1.2em, below: 0.5em, text(10.5pt, it.body))
#let small(it) = text(8pt, fill: quiet, it)
#let picture(svg, ..more) = if svg != "" { image(bytes(svg), format: "svg", ..more) }

#heading(level: 1, data.title)
#text(12pt, data.project) #h(1fr) #small[#data.date, #if data.units == "IP" [inch-pound] else [SI]]
#v(4pt)
#line(length: 100%, stroke: hair)

#let per = 4
#let chunks(items, n) = range(calc.ceil(items.len() / n)).map(k => items.slice(k * n, calc.min((k + 1) * n, items.len())))
#let groups = chunks(data.cases, per)

#for group in groups {
  grid(
    columns: (1fr,) * calc.min(per, calc.max(data.cases.len(), 2)),
    gutter: 10pt,
    ..group.map(c => block(breakable: false)[
      #block(height: 24mm, below: 5pt, align(bottom + left, picture(c.form, height: 23mm, fit: "contain")))
      #text(10.5pt, weight: 600, c.title)\
      #small(c.subtitle)
      #if c.place != "" [\ #small[Climate: #c.place]]
      #if c.note != "" [\ #text(8.5pt, style: "italic", c.note)]
      #if c.fault != "" [\ #text(8.5pt, fill: rgb("#A8442F"), c.fault)]
    ])
  )
  v(6pt)
}

== Energy in a year, by use
#small[Delivered, per conditioned floor area, #data.energy.unit]
#v(2pt)
#picture(data.energy.picture, width: 100%)

== Side by side
#let columns-of(indices) = {
  table(
    columns: (1.5fr,) + (1fr,) * indices.len(),
    align: (x, y) => if x == 0 { left } else { right },
    stroke: (x, y) => (bottom: hair),
    inset: (x: 4pt, y: 3.5pt),
    table.header([], ..indices.map(k => text(weight: 600, 8.5pt, data.cases.at(k).title))),
    ..data.figures.map(r => (
      [#r.title#if r.unit != "" [, #small(r.unit)]],
      ..indices.map(k => {
        let c = r.cells.at(k)
        [#c.text]
        if c.than != "" [\ #small(c.than)]
        if c.hour != "" [\ #small(c.hour)]
      }),
    )).flatten()
  )
}
#let every = range(data.cases.len())
#if every.len() <= per {
  columns-of(every)
} else {
  for group in chunks(every.slice(1), per - 1) { columns-of((0,) + group); v(8pt) }
}
#small["more" and "less" are against #data.cases.at(0).title.]

#let titles = data.cases.map(c => c.facts.map(f => f.title)).flatten().dedup()
#if titles.len() > 0 [
  == What differs
  #let fact(c, t) = {
    let found = c.facts.find(f => f.title == t)
    if found == none { [–] } else { found.text }
  }
  #let facts-of(indices) = table(
    columns: (1.3fr,) + (1fr,) * indices.len(),
    stroke: (x, y) => (bottom: hair),
    inset: (x: 4pt, y: 3.5pt),
    table.header([], ..indices.map(k => text(weight: 600, 8.5pt, data.cases.at(k).title))),
    ..titles.map(t => (t, ..indices.map(k => text(8.5pt, fact(data.cases.at(k), t))))).flatten()
  )
  #if every.len() <= per { facts-of(every) } else { for group in chunks(every.slice(1), per - 1) { facts-of((0,) + group); v(8pt) } }
]

#let worded = data.cases.filter(c => c.sentences.len() > 0)
#if worded.len() > 0 [
  == In words
  #for c in worded [
    === #c.title
    #for s in c.sentences [#s ]
  ]
]

== Why
#for c in data.cases.filter(c => c.why.len() > 0) [
  #block(breakable: false)[
    === #c.title
    #grid(
      columns: (1fr, 1fr), gutter: 14pt,
      ..c.why.map(w => [#small(w.title)#v(2pt)#picture(w.picture, width: 100%)])
    )
  ]
]
#small[Parts to the left of the line lower the load.]

#if data.study != none [
  == #data.study.name
  #data.study.question
  #v(4pt)
  #if data.study.effects != "" [#picture(data.study.effects, width: 52%)]
  #if data.study.chart != "" [#v(6pt)#picture(data.study.chart, width: 72%)]
  #if data.study.rows.len() > 0 {
    v(6pt)
    table(
      columns: (2fr,) + (1fr,) * (data.study.head.len() - 1),
      align: (x, y) => if x == 0 { left } else { right },
      stroke: (x, y) => (bottom: hair),
      inset: (x: 3pt, y: 3.5pt),
      table.header(..data.study.head.map(h => text(8pt, fill: quiet, h))),
      ..data.study.rows.flatten().map(t => text(8.5pt, t))
    )
  }
  #for w in data.study.words [#w ]
]

#let remarked = data.cases.filter(c => c.remarks.len() > 0)
#if remarked.len() > 0 [
  == Remarks
  #for c in remarked [
    === #c.title
    #for r in c.remarks [- #r]
  ]
]

#if data.assumed != none [
  == What is still assumed
  #data.assumed.sentence
  #if data.assumed.rows.len() > 0 {
    let ranked = data.assumed.ranked
    table(
      columns: if ranked { (1.6fr, 1fr, 1fr) } else { (1.6fr, 1fr) },
      align: (x, y) => if x == 2 { right } else { left },
      stroke: (x, y) => (bottom: hair),
      inset: (x: 4pt, y: 3pt),
      table.header(small[Value], small[assumed], ..if ranked { (small[moves energy by],) }),
      ..data.assumed.rows.map(r => (r.title, r.value, ..if ranked { (if r.moves == "" { [–] } else { r.moves },) })).flatten()
    )
  }
]

== Method and limits
#data.method

#text(weight: 600, data.limits)
