// A station's sheet.

#let standing-colours = (
  meets: "good",
  falls_short: "bad",
  too_close_to_call: "unsure",
  not_tested: "muted",
  cannot_be_judged: "muted",
)

// Shapes that say the verdict without colour, as ◆ ✕ ○ – do in plain text.
#let sign(standing) = {
  let tone = colour(standing-colours.at(standing))
  let shape = if standing == "meets" {
    polygon(fill: tone, (0pt, 3.5pt), (3.5pt, 0pt), (7pt, 3.5pt), (3.5pt, 7pt))
  } else if standing == "falls_short" {
    let bar(from, to) = place(line(start: from, end: to, stroke: 1.4pt + tone))
    box(width: 7pt, height: 7pt, {
      bar((0.5pt, 0.5pt), (6.5pt, 6.5pt))
      bar((0.5pt, 6.5pt), (6.5pt, 0.5pt))
    })
  } else if standing == "too_close_to_call" {
    circle(radius: 3pt, stroke: 1.3pt + tone)
  } else {
    box(width: 7pt, height: 7pt, place(horizon, line(length: 7pt, stroke: 1.3pt + tone)))
  }
  box(width: 11pt, pdf.artifact(shape))
}

#heading(level: 1, data.station)
#quiet(data.subtitle)

#block(
  above: 13pt,
  below: 12pt,
  inset: (left: 9pt, y: 2pt),
  stroke: (left: 4.5pt + colour("accent")),
  text(14pt, weight: 500, data.finding),
)

#for part in data.summary { par(part) }

#if data.facts.len() > 0 {
  block(above: 14pt, below: 14pt, {
    set par(leading: 11pt)
    for fact in data.facts {
      box(inset: (right: 18pt), {
        set par(leading: 5pt)
        quiet(fact.title)
        linebreak()
        text(15.5pt, weight: 600, fact.shown)
      })
      sym.zws
    }
  })
}

#if data.pros.len() + data.cons.len() > 0 {
  grid(
    columns: (1fr, 1fr),
    column-gutter: 26pt,
    [== For it
      #lines-or(data.pros, "Nothing noted.")],
    [== Against it
      #lines-or(data.cons, "Nothing noted.")],
  )
}

#if data.claims.len() > 0 or data.untested != "" or data.stated != "" [
  == What the maker claims, and what was found
  #if data.claims.len() > 0 {
    table(
      columns: (1fr, auto, auto, 2.6fr),
      table.header[Claim][Claimed][Measured][Verdict],
      ..for c in data.claims {
        (
          [#c.title \ #quiet(c.source)],
          c.claimed,
          c.measured,
          [#sign(c.standing)#text(
              weight: 600,
              fill: colour(standing-colours.at(c.standing)),
              c.word,
            ) \ #quiet(c.sentence)],
        )
      },
    )
  }
  #if data.untested != "" { par(quiet(data.untested)) }
  #if data.stated != "" { par(quiet(data.stated)) }
]

#if data.results.len() > 0 [
  == Results
  #table(
    columns: (1.1fr, auto, 1.7fr),
    table.header[Figure][Value][How it was found],
    ..for f in data.results { (f.title, f.shown, quiet(f.how)) },
  )
]

#if data.charts.len() > 0 [
  == Where the watt-hours went
  #grid(columns: (1fr, 1fr), gutter: 9pt, ..data.charts.map(chart))
  #if data.tolls.len() > 0 {
    block(above: 10pt, list(..data.tolls.map(f => quiet[*#f.title*, #f.brief: #f.how])))
  }
]

#if data.outputs.len() > 0 [
  == What comes out of the sockets
  #for part in data.outputs {
    heading(level: 3, part.title)
    block(sticky: true)[*#part.finding.* #part.words]
    for made in part.charts { block(below: 10pt, width: 94%, chart(made)) }
  }
]

#if data.scoring.len() > 0 [
  == Scorecard: #data.score_words
  #table(
    columns: (auto, auto, 1fr),
    stroke: (bottom: 0.75pt + colour("line")),
    ..for p in data.scoring {
      (text(weight: 400, p.got), text(weight: 400, p.title), quiet(text(weight: 400, p.evidence)))
    },
  )
]

#if data.runs.len() > 0 [
  == Every run
  #set text(small)
  #table(
    columns: (auto, 1fr, 1.2fr, 1.9fr, auto, 1fr),
    table.header[Run][Method][Load][Came to][Lasted][Meter],
    ..for r in data.runs {
      let shown(body) = if r.void { text(fill: colour("muted"), body) } else { body }
      (
        shown[#r.number \ #quiet(r.date)],
        shown(r.method),
        shown(r.load),
        shown(r.came_to),
        shown(r.duration),
        quiet(r.meter),
      )
    },
  )
]

== How it was measured
#grid(
  columns: (112pt, 1fr),
  column-gutter: 12pt,
  row-gutter: 7pt,
  ..for (name, words) in data.method { (text(fill: colour("muted"), name), words) },
)

#if data.pictures.len() > 0 [
  == Pictures
  #for p in data.pictures {
    block(below: 11pt, breakable: false, {
      let words = if p.caption == "" { "A photo without a caption" } else { p.caption }
      image(bytes(p.svg), format: "svg", width: p.width_pt * 1pt, alt: words)
      if p.caption != "" { linebreak() + quiet(p.caption) }
    })
  }
]

== Take care
#list(..data.cautions)
