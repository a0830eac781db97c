// The look of all our pages: paper, type, headings, tables.

#let data = json("data.json")
#let colour(name) = rgb(data.colours.at(name))
#let small = 9.5pt

#set document(title: data.title, date: none)
#set page(
  paper: "a4",
  margin: (x: 15mm, top: 16mm, bottom: 18mm),
  fill: colour("paper"),
  footer: context align(right, text(
    9pt,
    fill: colour("muted"),
    counter(page).display("1 of 1", both: true),
  )),
)
// The second has the arrows and shapes that the first lacks.
#set text(font: ("Barlow", "Yard Signs"), size: 10.5pt, lang: "en", number-width: "tabular", fill: colour("ink"))
#set par(leading: 0.6em, spacing: 0.75em)
#set list(indent: 4pt, body-indent: 6pt, spacing: 0.65em)

#show heading.where(level: 1): it => block(below: 8pt, text(24pt, weight: 600, it.body))
#show heading.where(level: 2): it => block(
  above: 22pt,
  below: 9pt,
  inset: (left: 8pt, y: 2pt),
  stroke: (left: 4.5pt + colour("ink")),
  text(14.5pt, weight: 600, it.body),
)
#show heading.where(level: 3): it => block(above: 13pt, below: 6pt, text(
  12pt,
  weight: 600,
  it.body,
))

#set table(
  inset: (left: 0pt, right: 8pt, y: 4.5pt),
  align: left + top,
  stroke: (_, row) => (
    bottom: if row == 0 { 1.5pt + colour("ink") } else { 0.75pt + colour("line") },
  ),
)
#show table.cell: set block(breakable: false)
#show table.cell.where(y: 0): set text(weight: 600)

#let quiet(body) = text(small, fill: colour("muted"), body)

// A list, or a word for none.
#let lines-or(items, none-word) = if items.len() == 0 { quiet(none-word) } else {
  list(..items)
}

// A chart of ours, with what it shows in words.
#let chart(made, width: 100%) = block(
  breakable: false,
  stroke: 0.75pt + colour("line"),
  image(bytes(made.svg), format: "svg", width: width, alt: made.title),
)

