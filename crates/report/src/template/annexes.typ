// The annexes: what each bench says, in short. Every one is a function of the data; nothing is worked out here.
#import "style.typ": *

// ---------------------------------------------------------------- roof
#let roof-annex(d) = [
  #if d.roof != none [
    #let r = d.roof
    == The roof
    #r.area

    #align(center, image(bytes(r.plan), format: "svg", width: 100%, height: 105mm, fit: "contain", alt: r.plan_alt))
    #muted[North is up. Thick: ridge; thin: hips, eaves and rakes; dash and dot: valleys; dotted: steps. Dashed within: the walls. Arrows show where water runs. Lengths along the roof#if not d.us [ in metres]. #r.edges.]

    #table(
      columns: (8mm, 1fr, 34mm, 12mm, 18mm, 16mm, 22mm, 22mm),
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
]

// ---------------------------------------------------------------- rain
#let rain-annex(d) = [
  #if d.rain != none [
    #let r = d.rain
    == Rainwater
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
    #for f in r.flats [
      #block(above: 12pt, breakable: false)[
        *#f.label.* #f.sentence
        #for o in f.outlets [\ #muted[#o.]]
        #if f.plan != none [#align(center, image(bytes(f.plan), format: "svg", width: 100%, height: 62mm, fit: "contain", alt: "Plan of the " + lower(f.label) + " " + f.state + ". " + f.sentence))]
        #if f.caution != "" [#text(fill: brick)[*Hazard:* #f.caution]]
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
]

// ---------------------------------------------------------------- ground
#let ground-annex(d) = [
  #if d.ground != none [
    #let g = d.ground
    == The ground
    #for f in g.faces [#f

    ]
    #if g.plan != none [
      #align(center, image(bytes(g.plan), format: "svg", width: 100%, height: 110mm, fit: "contain", alt: g.plan_alt))
      #muted[Contours and heights in #if d.us [inches] else [millimetres] from the finished floor. Water as it would stand before it runs over. Outside the readings nothing is said.]
    ]
    #if g.ponds.len() > 0 [#list(..g.ponds.map(p => [#p]))]

    === One storm over the whole place
    #if g.storm != none [#g.storm]
    #for w in g.wet [
      #block(above: 8pt)[*#w.sentence* \ #muted[Its water: #w.from.]]
    ]
    #for x in g.dry [#x

    ]
    #for w in g.ways_in [#w

    ]
    #if g.if_blocked != none [#g.if_blocked]

    #muted[#g.balance Steady five-minute steps; an estimate.]

    #if g.mends.len() > 0 [
      === What would end it
      #for m in g.mends [
        *#upper(m.place.first())#m.place.slice(1)* #muted[(#lower(m.school))]
        #enum(..m.remedies.map(r => [#r.words. #muted[#r.sentence]]))
      ]
    ]
    #if g.digs [#text(fill: brick)[*Hazard:*] where digging is advised, have buried services located first; a licensed trade digs near gas and electricity.]

    #if g.transects.len() > 0 [
      === Where the ground falls short
      #grid(columns: (1fr, 1fr), column-gutter: 14pt, row-gutter: 12pt, ..g.transects.map(t => block(breakable: false, width: 100%)[
        #text(size: 9.5pt)[
          #t.sentence
          #image(bytes(t.svg), format: "svg", width: 100%, alt: "Profile of the ground. " + t.sentence)
          #list(..t.remedies.map(r => [#r.words #if not r.possible [#muted[(not possible as it is)]]]))
        ]
      ]))
    ]
    #if g.kept.len() > 0 [
      *Recommended, with what it changes*
      #list(..g.kept.map(k => [#k]))
    ]
    #for x in g.nearby [#x

    ]
    #for x in g.doubts [#text(fill: ochre)[To look at again: #x]

    ]
  ]
]

// ---------------------------------------------------------------- walls
#let walls-annex(d) = [
#let checked(t) = table(
    columns: (1fr,) + (auto,) * t.heads.len(),
    stroke: (x, y) => (bottom: 0.5pt + line-tone),
    inset: (x: 3pt, y: 3.5pt),
    table.header(..("", ..t.heads).map(h => muted(h))),
    ..t.rows.map(r => r.enumerate().map(((n, c)) => if n == 0 [#c] else if c == "WRONG" [*wrong*] else [#muted[#c]])).flatten(),
  )
  #if d.walls != none [
    #let w = d.walls
    == Walls
    #if w.sentence != none [#w.sentence]
    #if w.list.len() > 0 [
      === Do not cover
      Each of these must be seen again before it is closed up.
      #list(..w.list.map(e => [*#e.what*#if e.text != "" [: #e.text]. #if e.open [To be seen again.] else [#upper(e.again.first())#e.again.slice(1).]]))
    ]
    #if w.openings != none [
      === Openings, before cladding
      #checked(w.openings)
    ]
    #if w.faces != none [
      === Faces, before cladding
      #checked(w.faces)
    ]
    #if w.rows.len() > 0 [
      === Fasteners
      #list(..w.rows.map(r => [#r]))
    ]
    #if w.details.len() > 0 [
      === Details that let water in
      #block(sticky: true)[#muted[Pieces are drawn as flat sheets stepped toward the viewer, sound seals on the left and aged ones on the right. Water is blue: dotted where it runs behind something, a cross where it gets in, a disc where it is held.]]
      #for x in w.details [
        #block(above: 12pt, breakable: false)[
          *#x.name.* #x.sentence
          #if x.svg != none [#align(center, image(bytes(x.svg), format: "svg", width: 100%, height: 82mm, fit: "contain", alt: x.sentence))]
          #for m in x.mending [#m ]
          #if x.too_early != none [#x.too_early]
          #if x.order != "" [\ #muted[Order of work: #x.order.]]
          #pictures(x.pictures)
        ]
      ]
    ]
    #if w.right.len() > 0 [Right as they lie: #w.right.join("; ").]
    #for m in w.masonry [

      *#m.name.* #m.said.join(" ")
    ]
    #if w.cracks.len() > 0 [
      === Cracks
      #for e in w.elevations [#align(center, image(bytes(e.svg), format: "svg", width: 100%, height: 60mm, fit: "contain", alt: e.alt))]
      #list(..w.cracks.map(c => [#c]))
    ]
    #if w.floor != none [
      === Floor heights
      #w.floor.sentence
      #align(center, image(bytes(w.floor.svg), format: "svg", width: 70%, height: 70mm, fit: "contain", alt: w.floor.sentence))
      #muted[A disc lies above the best plane, a ring below it, the larger the farther. The arrow shows the way the floor falls.]
    ]
    #if w.reader != none [
      #w.reader.sentence
      #list(..w.reader.next.map(n => [#n]))
    ]
    #if w.opens [#text(fill: brick)[*Hazard:*] opening a wall may meet electricity, gas, mould or asbestos: have it looked at first, and leave it to a licensed trade.]
  ]
]

// ---------------------------------------------------------------- moisture
#let moisture-annex(d) = [
  #if d.moisture != none [
    #let m = d.moisture
    == Moisture
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
      === Pictures of heat
      #list(..m.heat.map(h => [#h]))
    ]
    #for x in m.drying [
      #block(above: 12pt, breakable: false)[
        *#x.name.* #x.sentence
        #align(center, image(bytes(x.svg), format: "svg", width: 70%, height: 42mm, fit: "contain", alt: x.sentence))
      ]
    ]
    #if m.air.len() > 0 [
      === Air
      #list(..m.air.map(h => [#h]))
    ]
    #if m.left.len() > 0 [
      === Left to read
      #list(..m.left.map(h => [#h]))
    ]
  ]
  #if d.trace != none [
    #let t = d.trace
    == Where the water comes in
    Weighed from what was seen of each place, where it lies, in which rain the spot showed, and what tests showed. Likely is not certain: the next rain decides.
    #for s in t.spots [
      === #s.name
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
      === Not tried
      #list(..t.untried.map(x => [#x]))
    ]
    #if t.struck.len() > 0 [
      === Struck off the list
      #list(..t.struck.map(x => [#x]))
    ]
    #for c in t.cautions [#text(fill: brick)[*Hazard:*] #c ]
  ]
]

// ---------------------------------------------------------------- storm
#let storm-annex(d) = [
  #if d.storm != none [
    #let s = d.storm
    == After the storm
    Counted so that a second person finds the same: squares lie where a kept seed drew them. A hit is sure from #s.sure up by its signs; ranges are exact, #s.confidence. No opinion is given on who pays.
    #if s.plan != none [#align(center, image(bytes(s.plan), format: "svg", width: 100%, height: 88mm, fit: "contain", alt: "Roof with test squares and hits to scale"))]
    #muted[Filled: a sure hit. Ring: a doubtful one. Cross: no hail.]
    #if s.rates_svg != none [
      #block(above: 12pt, breakable: false)[
        === Hits by slope
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
      === Squares
      #list(..s.squares.map(x => [#x]))
    ]
    #if s.soft.len() > 0 [
      #block(breakable: false)[
        === Soft metal and other things
        #grid(columns: (62mm, 1fr), gutter: 10pt, align: horizon,
          image(bytes(s.soft_svg), format: "svg", width: 100%, alt: "Dents in soft metal by face and height: " + s.soft.join(" ")),
          list(..s.soft.map(x => [#x])),
        )
        #muted[Dents by face and height. Filled: fresh. Ring: oxidised. Nought: looked at, none found.]
      ]
    ]
    #if s.wind.len() + s.mends.len() > 0 [
      === Wind, and whether it can be mended
      #list(..(s.wind + s.mends).map(x => [#x]))
    ]
    #if s.opened.len() > 0 [
      === What fell
      #list(..s.opened.map(x => [#x]))
    ]
    #if s.which != "" [
      === Which storm
      *#s.which* #muted[#s.source]
      #list(..s.reasons.map(x => [#x]))
      #for c in s.conflicts [#c ]
    ]
    #if s.not_this.len() > 0 [
      === Not from this storm
      #list(..s.not_this.map(x => [#x]))
    ]
    #if s.unreached.len() > 0 [
      === Seen from afar, or not at all
      #list(..s.unreached.map(x => [#x]))
    ]
    #if s.costs.len() > 0 [
      === Mending or a new covering
      #table(
        columns: (1.3fr, auto, auto, auto, 2fr), stroke: none, inset: (x: 4pt, y: 3pt), align: left + top,
        table.header([*Slope*], [*Break-even*], [*Mending*], [*New*], [*What follows*]),
        ..s.costs.flatten().map(c => [#c]),
      )
    ]
    #for c in s.cautions [#text(fill: brick)[*Hazard:*] #c ]
    === Statement of what was counted
    #list(..s.statement.map(x => [#x]))
  ]
]

// ---------------------------------------------------------------- readings
#let readings-annex(d) = [
  #if d.ground != none and d.ground.levels.len() > 0 [
    #let g = d.ground
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
  ]
  #if d.gap_places.len() > 0 [
    == Places that were not looked at
    #for (face, zones) in d.gap_places [*#face:* #zones \ ]
  ]
  #if d.open_expectations.len() > 0 [
    == What this kind of visit also asks for, and was not looked at
    #text(size: 9pt, d.open_expectations.join("; ") + ".")
  ]
]
