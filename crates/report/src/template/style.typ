// Tones and the parts every page is made of.
#import "/tones.typ": brick, copper, ink, inkSoft as soft, ochre, plasterLine as line-tone, plasterLow as ground, verdigris

#let muted(body) = text(fill: soft, size: 9.5pt, body)
#let mono(body) = text(font: ("Atkinson Hyperlegible Mono", "DejaVu Sans"), size: 9.5pt, body)

// Text as a person typed it: its line ends stay.
#let typed(t) = t.split("\n").map(l => [#l]).join(linebreak())

// The rain gauge: fuller is sooner.
#let gauge(ticks, hazard: false, scale: 1) = pdf.artifact(box(width: 9pt * scale, height: 24pt * scale, {
  let c = if hazard { brick } else { ink }
  place(curve(
    stroke: 1pt + c,
    curve.move((0.6pt, 0pt)),
    curve.line((0.6pt, 19pt)),
    curve.cubic((0.6pt, 24.4pt), (8.4pt, 24.4pt), (8.4pt, 19pt)),
    curve.line((8.4pt, 0pt)),
  ))
  for i in range(ticks) {
    place(dx: 2.4pt, dy: 17.4pt - i * 4pt, rect(width: 4.2pt, height: 3pt, fill: c))
  }
}))

#let framed(p, tall) = block(breakable: false, width: 100%)[
  #block(width: 100%, stroke: 0.75pt + line-tone, fill: ground, align(center, if p.marks == none {
    image(p.path, alt: p.alt, height: tall, fit: "contain")
  } else {
    // The drawing has the picture's own shape, so both fill the same box.
    layout(size => {
      let high = calc.min(tall, size.width / p.ratio)
      box(width: high * p.ratio, height: high)[
        #place(top + left, image(p.path, alt: p.alt, width: high * p.ratio, height: high))
        #place(top + left, pdf.artifact(image(bytes(p.marks), format: "svg", width: high * p.ratio, height: high)))
      ]
    })
  }))
  #v(-4pt)
  #muted[#p.caption#if p.taken != none [ · #p.taken]]
]

#let pictures(list) = if list.len() > 0 {
  v(4pt)
  // Rows of three, each of which stays whole.
  for row in list.chunks(3) {
    block(breakable: false, above: 8pt, grid(columns: (1fr, 1fr, 1fr), gutter: 10pt, ..row.map(p => framed(p, 40mm))))
  }
}

