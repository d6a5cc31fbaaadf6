// The report. Everything it says comes from data.json; nothing is worked out here.
#let d = json("data.json")
#let ink = rgb("#1B2329")
#let soft = rgb("#4A545B")
#let copper = rgb("#9A4B1F")
#let verdigris = rgb("#1F6F63")
#let brick = rgb("#9C2F2A")
#let ochre = rgb("#7A5600")
#let line-tone = rgb("#E4DFD3")
#let ground = rgb("#F2EFE8")

#set document(title: d.visit + ": " + d.name, author: if d.author == "" { () } else { d.author })
#set page(
  paper: "a4",
  margin: (x: 22mm, top: 24mm, bottom: 22mm),
  header: context if counter(page).get().first() > 1 [
    #set text(size: 8.5pt, fill: soft)
    #d.name #h(1fr) #d.visit
    #v(-6pt)
    #line(length: 100%, stroke: 0.5pt + line-tone)
  ],
  footer: context [
    #set text(size: 8.5pt, fill: soft)
    #h(1fr) Page #counter(page).display() of #counter(page).final().first()
  ],
)
#set text(font: ("Atkinson Hyperlegible Next", "DejaVu Sans"), size: 10.5pt, fill: ink, lang: "en", region: "GB", hyphenate: false)
#set par(leading: 0.62em, spacing: 0.85em)
#show heading: set text(weight: 700)
#show heading.where(level: 1): it => block(above: 22pt, below: 10pt, breakable: false, text(size: 16pt, it.body))
#show heading.where(level: 2): it => block(above: 0pt, below: 5pt, breakable: false, text(size: 12pt, it.body))

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
  grid(columns: (1fr, 1fr, 1fr), gutter: 10pt, ..list.map(p => framed(p, 40mm)))
}

// ---------------------------------------------------------------- first page
#text(size: 11pt, fill: soft)[#d.visit]
#v(-4pt)
#title(text(size: 26pt, d.name))
#v(2pt)
#line(length: 100%, stroke: 1.5pt + ink)
#v(4pt)
#for f in d.facts [
  #grid(columns: (32mm, 1fr), gutter: 4pt, text(fill: soft, f.at(0)), f.at(1))
]
#v(10pt)
#block(width: 100%, stroke: (left: 3pt + copper), inset: (left: 12pt, y: 4pt))[
  #text(size: 13pt, weight: 700, d.summary)
  #if d.hazards > 0 [
    \ #text(fill: brick, weight: 700)[Hazard:] #if d.hazards == 1 [one of them can hurt someone.] else [#d.hazards of them can hurt someone.]
  ]
  \ #d.coverage
  #if d.gap != "" [\ #d.gap]
]
#v(1fr)
#[
  #show outline.entry: set block(above: 7pt)
  #outline(title: none, depth: 1, indent: auto)
]
#v(1fr)
#muted[
  Report of #d.date. What is written here was seen on the day, from where it could be seen; what could not be seen is listed. Local code, the
  manufacturer's instructions and the licensed trade decide.
]
#pagebreak()

= What was asked
#d.asks

#if d.worries != "" [#typed(d.worries)] else [#muted[Nothing in particular was named.]]

#if d.papers != "" [
  *Papers and statements*

  #typed(d.papers)
]

= What was seen, and what was not
#grid(columns: (72mm, 1fr), gutter: 14pt,
  image("wheel.svg", width: 72mm, alt: d.wheel_alt),
  [
    #d.coverage

    #muted[The building from above. Each sector is a face in its true direction, each ring a height: roof in the middle, then edge, upper wall, openings, base and ground. A tick: seen, nothing to note. A number: notes. Hatched: could not be seen. Dashed: not looked at.]

    #if d.gap != "" [*#d.gap*]
    #if d.limits.len() == 0 and d.gap == "" [Every place this visit asks for could be seen.]
  ],
)
#if d.limits.len() > 0 [
  *What could not be seen*
  #list(..d.limits.map(l => [#l]))
]

= Findings, soonest first
#if d.findings.len() == 0 [Nothing was found that needs doing.] else [
  #table(
    columns: (8mm, 31mm, 1fr, 40mm),
    stroke: none,
    inset: (x: 4pt, y: 4.5pt),
    table.hline(stroke: 1pt + ink),
    table.header([*No.*], [*When*], [*What*], [*Who*]),
    table.hline(stroke: 0.5pt + ink),
    ..d.findings.map(f => (
      mono[#f.number],
      if f.hazard { text(fill: brick, weight: 700)[Hazard · #f.urgency] } else { f.urgency },
      [#link(label("f" + str(f.number)), f.title) \ #muted(f.place)],
      if f.trade == none { [] } else { f.trade },
      table.hline(stroke: 0.5pt + line-tone),
    )).flatten(),
  )
]

#for f in d.findings [
  #let beside = f.pictures.len() == 1
  #block(above: 14pt, below: 0pt, width: 100%, breakable: f.pictures.len() > 2)[
    #line(length: 100%, stroke: 0.5pt + line-tone)
    #grid(columns: if beside { (13mm, 1fr, 58mm) } else { (13mm, 1fr) }, column-gutter: if beside { (0pt, 10pt) } else { 0pt },
      [#gauge(f.ticks, hazard: f.hazard)],
      [
        #heading(level: 2)[#f.number. #f.title] #label("f" + str(f.number))
        #if f.hazard [#text(fill: brick, weight: 700)[Hazard.] ]#text(weight: 700)[#f.urgency] · #f.place
        #if f.remarks.len() > 0 [ · #f.remarks.map(r => if r.starts-with("suspected") { text(fill: ochre, r) } else { r }).join(", ")]
        #if f.measures.len() > 0 [\ #mono(f.measures.join("  ·  "))]
        #if f.said != none [\ #muted[Noted: “#typed(f.said)”]]

        #if f.cause != none [#f.cause #f.consequence]

        #if f.recommendation != none [#text(weight: 700)[Next step.] #f.recommendation #if f.trade != none [#muted[(#f.trade)]]]

        #if f.judged != none [#text(weight: 700)[Measured:] #f.judged.sum. #muted[(Rule: #f.judged.school)]]

        #if f.by_hand != none [#muted[Urgency set by the inspector: #f.by_hand]]
        #if f.reasons.len() > 0 [#muted[Why then: #f.reasons.join(" ")]]
      ],
      ..if beside { (framed(f.pictures.first(), 44mm),) } else { () },
    )
    #if not beside { pictures(f.pictures) }
  ]
]

// ---------------------------------------------------------------- the roof
#if d.roof != none [
  #let r = d.roof
  #pagebreak(weak: true)
  = The roof
  #r.area

  #align(center, image(bytes(r.plan), format: "svg", width: 100%, height: 105mm, fit: "contain", alt: r.plan_alt))
  #muted[North is up. Thick: ridge; thin: hips, eaves and rakes; dash and dot: valleys; dotted: steps. Dashed within: the walls. Arrows show where water runs. Lengths along the roof#if not d.us [ in metres]. #r.edges.]

  #table(
    columns: (9mm, 1fr, 36mm, 13mm, 14mm, 14mm, 21mm, 21mm),
    stroke: (x, y) => (bottom: 0.5pt + line-tone),
    inset: (x: 3pt, y: 4pt),
    table.header(..("", "Slope", "Covering", "Pitch", "Area", "Squares", "Age, years", "Left, years").map(h => muted(h))),
    ..r.slopes.map(s => s.map(c => [#c])).flatten(),
  )
  #muted[Age and years left: middle, and in brackets what one in ten fall short of and one in ten exceed. Estimates.]

  #for c in r.coverings [
    #block(above: 12pt, breakable: false)[
      #text(size: 12pt, weight: 700)[#upper(c.name.first())#c.name.slice(1).] #text(fill: ochre)[#c.sentence]

      #if c.spent != none [#c.spent]
      #c.plan #for l in c.layers [#l ]
      #for x in c.conflicts [#text(fill: ochre)[#x] ]

      #if c.drawing != none [
        #muted[Judged by its worst slope of more than a tenth: #c.worst.]
        #image(bytes(c.drawing), format: "svg", width: 100%, alt: c.drawing_alt)
      ]
      #muted[#c.schools]
    ]
  ]
  #if r.papers.len() > 0 [
    *Evidence on the age*
    #list(..r.papers.map(p => [#p]))
  ]

  *Going up*
  #for m in r.access [
    - #m.name: #lower(m.words.first())#m.words.slice(1)#if m.reasons.len() > 0 [ (#m.reasons.join(" "))]
  ]
  #muted[By the practice's school: #r.access_school.]

  #if r.wrong.len() + r.right.len() + r.open.len() > 0 [
    *Details this roof must have*
    #for (name, what) in (("Wrong", r.wrong), ("Right", r.right), ("Not looked at", r.open)) [
      #if what.len() > 0 [
        #name:
        #list(..what.map(w => [#w]))
      ]
    ]
  ]
  #for x in r.doubts [#text(fill: ochre)[To look at again: #x]

  ]
]

// ---------------------------------------------------------------- rainwater
#if d.rain != none [
  #let r = d.rain
  = Rainwater
  Design rain: #r.design. #r.balance

  #align(center, image(bytes(r.plan), format: "svg", width: 100%, height: 92mm, fit: "contain", alt: r.plan_alt))
  #muted[#if d.us [Gallons] else [Litres] per minute at each eave in the design rain; wider is more. Broken lines: eaves without a gutter. Discs: bursts at valley feet.]

  #table(
    columns: (1fr, 26mm, 30mm, 18mm),
    stroke: (x, y) => (bottom: 0.5pt + line-tone),
    inset: (x: 3pt, y: 4pt),
    table.header(..("Eave", "Drains", "Water", "Gutter").map(h => muted(h))),
    ..r.eaves.map(e => e.map(c => [#c])).flatten(),
  )
  #for g in r.gutters [
    #block(above: 10pt, breakable: false)[
      *#g.id.* #g.sentence
      #for o in g.outlets [\ #muted[Outlet #o.]]
      #for f in g.flights [\ #text(fill: ochre)[#f]]
      #if g.allowed.len() > 0 [\ #muted[Allowed: #g.allowed.map(a => a.at(0) + " " + a.at(1) + if a.at(2) != "" { " (" + a.at(2) + ")" } else { "" }).join("; ").]]
      #if g.section != none [#image(bytes(g.section), format: "svg", width: 100%, alt: "Long section of " + g.id + ": the water surface against the brim. " + g.sentence)]
    ]
  ]
  #for x in r.checks [#x

  ]
  #if r.kept.len() > 0 [
    *Recommended, with what it changes*
    #list(..r.kept.map(k => [#k]))
  ]
  #for x in r.doubts [#text(fill: ochre)[To look at again: #x]

  ]
  #muted[Capacity by: #lower(r.school). Depths and spills are computed for steady rain and are estimates.]
]

// ---------------------------------------------------------------- ground
#if d.ground != none [
  #let g = d.ground
  = The ground
  #for f in g.faces [#f

  ]
  #if g.plan != none [
    #align(center, image(bytes(g.plan), format: "svg", width: 100%, height: 110mm, fit: "contain", alt: g.plan_alt))
    #muted[Contours and heights in #if d.us [inches] else [millimetres] from the finished floor. Water as it would stand before it runs over. Outside the readings nothing is said.]
  ]
  #if g.ponds.len() > 0 [#list(..g.ponds.map(p => [#p]))]

  == One storm over the whole place
  #if g.storm != none [#g.storm]
  #for w in g.wet [
    #block(above: 8pt)[*#w.sentence* \ #muted[Its water: #w.from.]]
  ]
  #for x in g.dry [#x

  ]
  #muted[#g.balance Steady five-minute steps; an estimate.]

  #if g.mends.len() > 0 [
    == What would end it
    #for m in g.mends [
      *#upper(m.place.first())#m.place.slice(1)* #muted[(#lower(m.school))]
      #enum(..m.remedies.map(r => [#r.words. #muted[#r.sentence]]))
    ]
  ]
  #if g.digs [#text(fill: brick)[*Hazard:*] where digging is advised, have buried services located first; a licensed trade digs near gas and electricity.]

  #if g.transects.len() > 0 [
    == Where the ground falls short
    #for t in g.transects [
      #block(above: 10pt, breakable: false)[
        #t.sentence
        #image(bytes(t.svg), format: "svg", width: 88%, alt: "Profile of the ground. " + t.sentence)
        #list(..t.remedies.map(r => [#r.words #if not r.possible [#muted[(not possible as it is)]]]))
      ]
    ]
  ]
  #if g.kept.len() > 0 [
    *Recommended, with what it changes*
    #list(..g.kept.map(k => [#k]))
  ]
  #for x in g.nearby [#x

  ]
  == Levels
  #if g.book != "" [#g.book]
  #table(
    columns: (1fr, 1fr, 1fr, 1fr, 1fr, 1fr),
    stroke: (x, y) => (bottom: 0.5pt + line-tone),
    inset: (x: 3pt, y: 2.5pt),
    table.header(..("Reading", "Along", "Out", "Height", "Top", "How").map(h => muted(h))),
    ..g.levels.map(e => e.map(c => text(size: 8pt)[#c])).flatten(),
  )
  #muted[Along: right of the front left corner. Out: to the rear of it. #if g.left_out > 0 [#g.left_out more readings are in the file.]]
  #for x in g.doubts [#text(fill: ochre)[To look at again: #x]

  ]
]

// ---------------------------------------------------------------- walls
#let checked(t) = table(
  columns: (1fr,) + (auto,) * t.heads.len(),
  stroke: (x, y) => (bottom: 0.5pt + line-tone),
  inset: (x: 3pt, y: 3.5pt),
  table.header(..("", ..t.heads).map(h => muted(h))),
  ..t.rows.map(r => r.enumerate().map(((n, c)) => if n == 0 [#c] else if c == "WRONG" [*wrong*] else [#muted[#c]])).flatten(),
)
#if d.walls != none [
  #let w = d.walls
  = Walls
  #if w.sentence != none [#w.sentence]
  #if w.list.len() > 0 [
    #v(9pt)
    == Do not cover
    Each of these must be seen again before it is closed up.
    #list(..w.list.map(e => [*#e.what*#if e.text != "" [: #e.text]. #if e.open [To be seen again.] else [#upper(e.again.first())#e.again.slice(1).]]))
  ]
  #if w.openings != none [
    #v(9pt)
    == Openings, before cladding
    #checked(w.openings)
  ]
  #if w.faces != none [
    #v(9pt)
    == Faces, before cladding
    #checked(w.faces)
  ]
  #if w.rows.len() > 0 [
    #v(9pt)
    == Fasteners
    #list(..w.rows.map(r => [#r]))
  ]
  #if w.details.len() > 0 [
    #v(9pt)
    == Details that let water in
    #muted[Pieces are drawn as flat sheets stepped toward the viewer, sound seals on the left and aged ones on the right. Water is blue: dotted where it runs behind something, a cross where it gets in, a disc where it is held.]
    #for x in w.details [
      #block(above: 12pt, breakable: false)[
        *#x.name.* #x.sentence
        #if x.svg != none [#align(center, image(bytes(x.svg), format: "svg", width: 100%, height: 82mm, fit: "contain", alt: x.sentence))]
        #for m in x.mending [#m ]
        #if x.too_early != none [#x.too_early]
        #if x.order != "" [\ #muted[Order of work: #x.order.]]
      ]
    ]
  ]
  #if w.right.len() > 0 [Right as they lie: #w.right.join("; ").]
  #for m in w.masonry [

    *#m.name.* #m.said.join(" ")
  ]
  #if w.cracks.len() > 0 [
    #v(9pt)
    == Cracks
    #for e in w.elevations [#align(center, image(bytes(e.svg), format: "svg", width: 100%, height: 60mm, fit: "contain", alt: e.alt))]
    #list(..w.cracks.map(c => [#c]))
  ]
  #if w.floor != none [#w.floor]
  #if w.reader != none [
    #w.reader.sentence
    #list(..w.reader.next.map(n => [#n]))
  ]
  #if w.opens [#text(fill: brick)[*Hazard:*] opening a wall may meet electricity, gas, mould or asbestos: have it looked at first, and leave it to a licensed trade.]
]

// ---------------------------------------------------------------- moisture and tracing
#if d.moisture != none [
  #let m = d.moisture
  = Moisture
  A reading counts by how far it lies over places that are surely dry, in units of their spread: under 2 dry, over 4 wet. Nothing is drawn beyond the readings.
  #for x in m.maps [
    #block(above: 12pt, breakable: false)[
      *#x.name, #x.on.* #x.sentence
      #align(center, image(bytes(x.svg), format: "svg", width: 100%, height: 70mm, fit: "contain", alt: x.name + ". " + x.sentence))
      #muted[#x.against Ochre: raised. Blue: wet. Dashed: a patch of a picture of heat that was not confirmed.]
      #for e in x.doubts [\ #muted[#e]]
    ]
  ]
  #if m.heat.len() > 0 [
    #v(9pt)
    == Pictures of heat
    #list(..m.heat.map(h => [#h]))
  ]
  #for x in m.drying [
    #block(above: 12pt, breakable: false)[
      *#x.name.* #x.sentence
      #align(center, image(bytes(x.svg), format: "svg", width: 70%, height: 42mm, fit: "contain", alt: x.sentence))
    ]
  ]
  #if m.air.len() > 0 [
    #v(9pt)
    == Air
    #list(..m.air.map(h => [#h]))
  ]
  #if m.left.len() > 0 [
    #v(9pt)
    == Left to read
    #list(..m.left.map(h => [#h]))
  ]
]
#if d.trace != none [
  #let t = d.trace
  = Where the water comes in
  Weighed from what was seen of each place, where it lies, in which rain the spot showed, and what tests showed. Likely is not certain: the next rain decides.
  #for s in t.spots [
    #v(9pt)
    == #s.name
    #s.stop
    #if s.watch != none [#s.watch]
    #if s.plan != none [#align(center, image(bytes(s.plan), format: "svg", width: 100%, height: 72mm, fit: "contain", alt: "Plan of what may feed the spot, with the way of the likeliest"))]
    #if s.section != none [#align(center, image(bytes(s.section), format: "svg", width: 60%, height: 52mm, fit: "contain", alt: "Section along the likeliest way"))]
    #for r in s.ranking [
      #block(above: 8pt, breakable: false)[
        *#r.name* · #r.p
        #for b in r.because [#b ]
      ]
    ]
    #muted[Something that is not on the list: #s.unlisted.]
    #if s.rain != none [#align(center, image(bytes(s.rain), format: "svg", width: 100%, height: 34mm, fit: "contain", alt: "Rain with the sightings of the spot"))]
    #if s.tests.len() > 0 [
      *Tests made*
      #list(..s.tests.map(x => [#x]))
    ] else [No test was made. ]
    #for e in s.doubts [#muted[#e ]]
  ]
  #if t.untried.len() > 0 [
    #v(9pt)
    == Not tried
    #list(..t.untried.map(x => [#x]))
  ]
  #if t.struck.len() > 0 [
    #v(9pt)
    == Struck off the list
    #list(..t.struck.map(x => [#x]))
  ]
  #for c in t.cautions [#text(fill: brick)[*Hazard:*] #c ]
]

// ---------------------------------------------------------------- storm
#if d.storm != none [
  #let s = d.storm
  = After the storm
  Counted so that a second person finds the same: squares lie where a kept seed drew them. A hit is sure from #s.sure up by its signs; ranges are exact, #s.confidence. No opinion is given on who pays.
  #if s.plan != none [#align(center, image(bytes(s.plan), format: "svg", width: 100%, height: 88mm, fit: "contain", alt: "Roof with test squares and hits to scale"))]
  #muted[Filled: a sure hit. Ring: a doubtful one. Cross: no hail.]
  #if s.rates_svg != none [
    #block(above: 12pt, breakable: false)[
      == Hits by slope
      #align(center, image(bytes(s.rates_svg), format: "svg", width: 100%, height: 48mm, fit: "contain", alt: "Hits by slope with their ranges"))
      #s.directional
    ]
    #table(
      columns: (1.5fr, auto, 1fr, 1fr, 1.2fr), stroke: none, inset: (x: 4pt, y: 3pt), align: left + top,
      table.header([*Slope*], [*Squares*], [*Sure hits on 100 sq ft*], [*With doubtful ones*], [*How*]),
      ..s.rates.flatten().map(c => [#c]),
    )
  ]
  #if s.squares.len() > 0 [
    #v(9pt)
    == Squares
    #list(..s.squares.map(x => [#x]))
  ]
  #if s.soft.len() > 0 [
    #v(9pt)
    == Soft metal and other things
    #list(..s.soft.map(x => [#x]))
  ]
  #if s.wind.len() + s.mends.len() > 0 [
    #v(9pt)
    == Wind, and whether it can be mended
    #list(..(s.wind + s.mends).map(x => [#x]))
  ]
  #if s.opened.len() > 0 [
    #v(9pt)
    == What fell
    #list(..s.opened.map(x => [#x]))
  ]
  #if s.which != "" [
    #v(9pt)
    == Which storm
    *#s.which* #muted[#s.source]
    #list(..s.reasons.map(x => [#x]))
    #for c in s.conflicts [#c ]
  ]
  #if s.not_this.len() > 0 [
    #v(9pt)
    == Not from this storm
    #list(..s.not_this.map(x => [#x]))
  ]
  #if s.unreached.len() > 0 [
    #v(9pt)
    == Seen from afar, or not at all
    #list(..s.unreached.map(x => [#x]))
  ]
  #if s.costs.len() > 0 [
    #v(9pt)
    == Mending or a new covering
    #table(
      columns: (1.3fr, auto, auto, auto, 2fr), stroke: none, inset: (x: 4pt, y: 3pt), align: left + top,
      table.header([*Slope*], [*Break-even*], [*Mending*], [*New*], [*What follows*]),
      ..s.costs.flatten().map(c => [#c]),
    )
  ]
  #for c in s.cautions [#text(fill: brick)[*Hazard:*] #c ]
  #pagebreak(weak: true)
  == Statement of what was counted
  #list(..s.statement.map(x => [#x]))
  #v(24pt)
  #muted[Signed, and on which day:]
  #pagebreak(weak: true)
]

#if d.bundles.len() > 0 [
  = What can wait for other work
  #for b in d.bundles [
    *#b.with*
    #list(..b.findings.map(f => [#f]))
  ]
]

#if d.good.len() > 0 [
  = Done right
  Recorded because the next person on this building should know it.
  #for f in d.good [
    #block(breakable: false, width: 100%, above: 9pt)[
      #text(fill: verdigris, weight: 700)[#f.title] · #f.place
      #if f.measures.len() > 0 [ · #mono(f.measures.join("  ·  "))]
      #if f.said != none [\ #muted[Noted: “#typed(f.said)”]]
      #pictures(f.pictures)
    ]
  ]
]

#if d.side.len() > 0 [
  = For other trades
  Seen on the way; outside the envelope and not judged here.
  #for f in d.side [
    #block(breakable: false, width: 100%, above: 9pt)[
      *#f.title* · #f.place#if f.trade != none [ · ask: #lower(f.trade)]
      #if f.said != none [\ #muted[Noted: “#typed(f.said)”]]
      #if f.recommendation != none [\ #f.recommendation]
      #pictures(f.pictures)
    ]
  ]
]

#if d.loose.len() > 0 [
  = More pictures
  #pictures(d.loose)
]

= Limits
#list(
  [This was a visual inspection. Nothing was opened, dug up or taken apart unless it says so above.],
  ..d.limits.map(l => [#l]),
  ..if d.rain != none { d.rain.hose.map(l => [#l]) } else { () },
  ..if d.roof != none { d.roof.limits.map(l => [#l]) } else { () },
  ..d.noted_limits.map(f => [#f.title (#f.place)]),
  ..if d.gap != "" { ([#d.gap #d.gap_places.join("; ").],) } else { () },
  ..if d.open_expectations.len() > 0 { ([This kind of visit also asks for what was not looked at: #d.open_expectations.join("; ").],) } else { () },
  ..if d.out_of_scope != "" { ([#d.out_of_scope],) } else { () },
  ..if not d.closed { ([The visit was not closed when this report was made.],) } else { () },
  ..d.left_out.map(l => [#l]),
  ..if d.unprintable != "" { ([#d.unprintable],) } else { () },
)

= Rules of practice used
- *Urgency* starts at each condition's own step and moves one step for each thing known on site: water confirmed active, much water arriving, something sensitive behind, a place that faces the driving rain. Danger to people is always dealt with now. Where the inspector set a step by hand, the reason is printed.
- *Faces* are named as seen standing outside, facing the front.
- *Measures* are given as they were read, with the value in the reader's units behind where those are others.

#for r in d.rules [
  - *#r.what:* #r.school.
]

These are rules of practice#if d.practice != "" [ of #d.practice], not law. *Local code, the manufacturer's instructions and the licensed trade decide.* Ladders, roofs, electricity, structure, mould and asbestos are work for people who are trained and equipped for them.
