// Stations side by side.

#heading(level: 1, data.title)
#par(data.ties)

#for part in data.parts {
  heading(level: 2, part.headline)
  if part.condition != "" { block(sticky: true, quiet(part.condition)) }
  chart(part.chart)
  block(above: 8pt, table(
    columns: (1.2fr, auto, auto, 2fr),
    table.header[Station][Figure][Place][Conditions],
    ..for row in part.rows { (row.at(0), row.at(1), row.at(2), quiet(row.at(3))) },
  ))
}
