// The report and what else is cut from the same account. Everything it says comes from data.json; nothing is worked out here.
#import "style.typ": *
#import "annexes.typ": *
#let d = json("data.json")

#set document(title: d.heading + ": " + d.name, author: if d.author == "" { () } else { d.author })
#set page(
  paper: d.paper,
  margin: (x: 21mm, top: 24mm, bottom: 22mm),
  header: context if counter(page).get().first() > 1 [
    #set text(size: 8.5pt, fill: soft)
    #d.name #h(1fr) #d.heading
    #v(-6pt)
    #line(length: 100%, stroke: 0.5pt + line-tone)
  ],
  footer: context [
    #set text(size: 8.5pt, fill: soft)
    #h(1fr) Page #counter(page).display() of #counter(page).final().first()
  ],
)
#set text(font: ("Atkinson Hyperlegible Next", "DejaVu Sans"), size: 10.5pt, fill: ink, lang: "en", region: "GB", hyphenate: false, costs: (orphan: 400%, widow: 400%))
#set par(leading: 0.62em, spacing: 0.85em)
#show heading: set text(weight: 700)
// A heading stays with what it heads.
#show heading.where(level: 1): it => block(above: 24pt, below: 10pt, breakable: false, sticky: true, text(size: 16pt, it.body))
#show heading.where(level: 2): it => block(above: 18pt, below: 7pt, breakable: false, sticky: true, text(size: 12.5pt, it.body))
#show heading.where(level: 3): it => block(above: 12pt, below: 5pt, breakable: false, sticky: true, text(size: 11pt, it.body))
#show table: set block(above: 8pt, below: 8pt)

#let masthead = [
  #text(size: 11pt, fill: soft)[#d.heading]
  #v(-4pt)
  #title(text(size: 24pt, d.name))
  #v(-2pt)
  #line(length: 100%, stroke: 1.5pt + ink)
  #muted[#d.facts.map(f => [#f.at(0): #text(fill: ink, f.at(1))]).join([ · ])]
]

#let who-when(f) = [#if f.hazard [#text(fill: brick, weight: 700)[Hazard · #f.when]] else [#f.when]]

// What was asked, the answer, what comes first, what is dangerous, what was not seen.
#let first-page = {
  let p = d.front
  masthead
  v(6pt)
  block(width: 100%, stroke: (left: 3pt + copper), inset: (left: 12pt, y: 4pt))[
    #text(fill: soft)[#p.asked]
    #for s in p.answer [
      #parbreak()
      #text(size: if p.answer.len() > 3 { 11pt } else { 12pt }, weight: 700, s)
    ]
  ]
  if p.first.len() > 0 {
    v(2pt)
    text(size: 12.5pt, weight: 700)[To be done first]
    table(
      columns: (8mm, 1fr, 34mm, 38mm),
      stroke: none,
      inset: (x: 4pt, y: 4pt),
      table.hline(stroke: 1pt + ink),
      table.header([*No.*], [*What*], [*When*], [*Who*]),
      table.hline(stroke: 0.5pt + ink),
      ..p.first.map(f => (
        mono[#f.number],
        [*#f.title*, #f.place#if f.step != "" [ \ #muted(f.step)]],
        who-when(f),
        f.who,
        table.hline(stroke: 0.5pt + line-tone),
      )).flatten(),
    )
  }
  grid(columns: (62mm, 1fr), gutter: 12pt,
    image(bytes(d.places), format: "svg", width: 62mm, alt: d.places_alt),
    [
      #if p.dangers.len() > 0 [
        #text(fill: brick, weight: 700)[What can hurt someone] \
        #p.dangers.map(f => [#f.number. #f.title, #f.place]).join([; ]).
      ] else [*Nothing was found that can hurt someone.*]

      *What was not seen* \
      #p.unseen.sentence

      #muted[The building from above, each face in its true direction, the roof inmost and the ground outmost. Numbers are those of the findings; what comes first stands on a dark ground.]
    ],
  )
  v(1fr)
  muted[Report of #d.date. What is written here was seen on the day, from where it could be seen. Local code, the manufacturer's instructions and the licensed trade decide.]
}

// One finding, never parted from its picture; more pictures follow in rows that stay whole.
#let finding-block(f, level: 3) = {
  let beside = f.pictures.len() > 0
  block(above: 12pt, below: 0pt, width: 100%, breakable: false, sticky: f.pictures.len() > 1)[
    #line(length: 100%, stroke: 0.5pt + line-tone)
    #grid(columns: if beside { (16mm, 1fr, 58mm) } else { (16mm, 1fr) }, column-gutter: if beside { (6pt, 10pt) } else { 6pt },
      [
        #align(center, gauge(f.ticks, hazard: f.hazard))
        #image(bytes(d.keys.at(f.key)), format: "svg", width: 16mm, alt: "Where: " + f.place)
      ],
      [
        #heading(level: level)[#f.number. #f.title] #label("f" + str(f.number))
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
  ]
  if f.pictures.len() > 1 { pictures(f.pictures.slice(1)) }
}

#let by-when(list) = {
  let last = none
  for f in list {
    if f.urgency != last {
      last = f.urgency
      heading(level: 2)[#f.urgency #text(fill: soft, weight: 400)[#list.filter(x => x.urgency == f.urgency).len()]]
    }
    finding-block(f)
  }
}

#let limits-list = list(
  [This was a visual inspection. Nothing was opened, dug up or taken apart unless it says so above.],
  ..d.limits.map(l => [#l]),
  ..if d.rain != none { d.rain.hose.map(l => [#l]) } else { () },
  ..if d.roof != none { d.roof.limits.map(l => [#l]) } else { () },
  ..d.noted_limits.map(f => [#f.title (#f.place)]),
  ..if d.gap != "" { ([#d.gap They are listed in the last annex.],) } else { () },
  ..if d.open_expectations.len() > 0 { ([This kind of visit also asks for #d.open_expectations.len() things that were not looked at; they are listed in the last annex.],) } else { () },
  ..if d.out_of_scope != "" { ([#d.out_of_scope],) } else { () },
  ..if not d.closed { ([The visit was not closed when this report was made.],) } else { () },
  ..d.left_out.map(l => [#l]),
  ..if d.unprintable != "" { ([#d.unprintable],) } else { () },
)

// What became of what an earlier visit recommended.
#let return-part = if d.again != none [
  #let r = d.again
  = What became of it
  #r.sentence
  #if r.why_now != "" [#muted[Visited before everything was said to be mended: #r.why_now]]

  #for l in r.lines [
    #block(above: 11pt, width: 100%, breakable: false)[
      #line(length: 100%, stroke: 0.5pt + line-tone)
      #grid(columns: (13mm, 1fr, 34mm), gutter: 6pt,
        mono[#l.number],
        [*#l.title*#if l.place != "" [, #l.place] #if l.do_not_cover [ · #text(fill: ochre)[not to be covered before it is seen]]
          #if l.step != "" [\ #muted[Recommended: #l.step]]
          #if l.said != "" [\ #typed(l.said)] #if l.by != "" [\ #muted[By: #l.by]]],
        align(right, text(weight: 700, fill: if l.open { brick } else if l.became == none { soft } else { verdigris }, if l.became == none { "not answered" } else { l.became })),
      )
      #if l.had or l.now != none [
        #grid(columns: (1fr, 1fr), gutter: 10pt,
          if l.then != none { framed(l.then, 40mm) } else { muted[No picture of the earlier visit can be shown.] },
          if l.now != none { framed(l.now, 40mm) } else { muted[No picture of this visit.] },
        )
      ]
    ]
  ]
  #if r.readings.len() > 0 [
    == Readings of then and now
    #table(
      columns: (1.4fr, 1fr, 1fr, 1fr), stroke: (x, y) => (bottom: 0.5pt + line-tone), inset: (x: 3pt, y: 3.5pt),
      table.header(..("What", "Then", "Now", "Change").map(h => muted(h))),
      ..r.readings.map(x => (x.name, x.then, if x.now == none { "–" } else { x.now }, x.change)).flatten().map(c => [#c]),
    )
  ]
]

#let signature = [
  #v(20pt)
  #grid(columns: (1fr, 1fr), gutter: 20pt,
    [#line(length: 100%, stroke: 0.5pt + ink) #muted[#d.author]],
    [#line(length: 100%, stroke: 0.5pt + ink) #muted[Day]],
  )
]

#let full = [
  #first-page
  #pagebreak()
  #[
    #show outline.entry: set block(above: 6pt)
    #outline(title: none, depth: 1, indent: auto)
  ]
  = What was asked
  #d.asks

  #if d.worries != "" [#typed(d.worries)] else [#muted[Nothing in particular was named.]]

  #if d.papers != "" [
    *Papers and statements*

    #typed(d.papers)
  ]

  #return-part

  = What was seen, and what was not
  #grid(columns: (72mm, 1fr), gutter: 14pt,
    image("wheel.svg", width: 72mm, alt: d.wheel_alt),
    [
      #d.coverage

      #d.front.unseen.sentence

      #muted[Each sector is a face in its true direction, each ring a height: roof in the middle, then edge, upper wall, openings, base and ground. A tick: seen, nothing to note. A number: notes. Hatched: could not be seen. Dashed: not looked at.]
    ],
  )

  = Findings, soonest first
  #if d.findings.len() == 0 [Nothing was found that needs doing.] else [
    #if d.findings.len() > 8 [#text(size: 9pt, table(
      columns: (8mm, 28mm, 1.1fr, 1fr, 32mm),
      stroke: none,
      inset: (x: 3pt, y: 2.6pt),
      table.hline(stroke: 1pt + ink),
      table.header([*No.*], [*When*], [*What*], [*Where*], [*Who*]),
      table.hline(stroke: 0.5pt + ink),
      ..d.findings.map(f => (
        mono[#f.number],
        if f.hazard { text(fill: brick, weight: 700)[Hazard · #f.urgency] } else { f.urgency },
        link(label("f" + str(f.number)), f.title),
        f.place,
        if f.trade == none { [] } else { f.trade },
        table.hline(stroke: 0.4pt + line-tone),
      )).flatten(),
    ))]
    #by-when(d.findings)
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
    #grid(columns: (1fr, 1fr), column-gutter: 14pt, row-gutter: 12pt, ..d.good.map(f => block(breakable: false, width: 100%)[
      #text(fill: verdigris, weight: 700)[#f.title] · #f.place
      #if f.measures.len() > 0 [ · #mono(f.measures.join("  ·  "))]
      #if f.said != none [\ #muted[Noted: “#typed(f.said)”]]
      #for p in f.pictures { framed(p, 34mm) }
    ]))
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

  = Limits
  #limits-list

  = Rules of practice used
  - *Urgency* starts at each condition's own step and moves one step for each thing known on site: water confirmed active, much water arriving, something sensitive behind, a place that faces the driving rain. Danger to people is always dealt with now. Where the inspector set a step by hand, the reason is printed.
  - *Faces* are named as seen standing outside, facing the front.
  - *Measures* are given as they were read, with the value in the reader's units behind where those are others.

  #for r in d.rules [
    - *#r.what:* #r.school.
  ]

  These are rules of practice#if d.practice != "" [ of #d.practice], not law. *Local code, the manufacturer's instructions and the licensed trade decide.* Ladders, roofs, electricity, structure, mould and asbestos are work for people who are trained and equipped for them.

  #if d.has_annexes [
    #pagebreak(weak: true)
    = Annexes: what each part of the building showed
    #roof-annex(d)
    #rain-annex(d)
    #ground-annex(d)
    #walls-annex(d)
    #moisture-annex(d)
    #storm-annex(d)
  ]
  #if d.loose.len() > 0 [
    = More pictures
    #pictures(d.loose)
  ]
  #if d.has_tables [
    = Last annex: readings and lists
    #readings-annex(d)
  ]
]

#let note = [
  #first-page
]

#let insurer = [
  #masthead
  #v(4pt)
  = Statement of the roof for an insurer
  It says what was seen and measured; it gives no opinion on cover or on who pays.
  #if d.roof != none [
    #let r = d.roof
    == Shape
    #r.area
    #align(center, image(bytes(r.plan), format: "svg", width: 100%, height: 74mm, fit: "contain", alt: r.plan_alt))
    == Four elevations
    #grid(columns: (1fr, 1fr), gutter: 10pt, ..r.elevations.map(e => block(breakable: false)[#muted[#e.name] #image(bytes(e.svg), format: "svg", width: 100%, height: 46mm, fit: "contain", alt: e.name + ", to scale")]))
    == Age and years left
    #table(
      columns: (1.4fr, auto, auto, auto, auto),
      stroke: (x, y) => (bottom: 0.5pt + line-tone),
      inset: (x: 3pt, y: 4pt),
      table.header(..("Slope and covering", "Pitch", "Area", "Age, years", "Left, years").map(h => muted(h))),
      ..r.slopes.map(s => ([#s.at(1) \ #muted(s.at(2))], s.at(3), s.at(4), s.at(6), s.at(7))).flatten().map(c => [#c]),
    )
    #muted[Middle, and in brackets what one in ten fall short of and one in ten exceed. Estimates.]
    #for c in r.coverings [
      *#upper(c.name.first())#c.name.slice(1).* #c.sentence

    ]
    #if r.papers.len() > 0 [
      == Evidence on the age
      #list(..r.papers.map(p => [#p]))
    ]
  ] else [The roof has not been measured at this visit.]
  #if d.storm != none [
    == What was counted after the storm
    #list(..d.storm.statement.map(x => [#x]))
  ]
  #let above = d.findings.filter(f => f.key.ends-with(".roof") or f.key.ends-with(".edge"))
  #if above.len() > 0 [
    == What was found on the roof and its edges
    #for f in above { finding-block(f) }
  ]
  == What could not be seen
  #list(..d.limits.map(l => [#l]), ..if d.roof != none { d.roof.limits.map(l => [#l]) } else { () }, [#d.front.unseen.sentence])
  #signature
]

#let trade = [
  #masthead
  #v(4pt)
  = Work list: #d.trade
  Each entry has the number it has in the report.
  #if d.findings.len() == 0 [Nothing of this report is for this trade.] else [#by-when(d.findings)]
  #if d.quantities.len() > 0 [
    == Quantities
    #table(
      columns: (1.4fr, 1fr), stroke: (x, y) => (bottom: 0.5pt + line-tone), inset: (x: 3pt, y: 4pt),
      ..d.quantities.map(q => (q.at(0), mono(q.at(1)))).flatten().map(c => [#c]),
    )
    #muted[From the measurements of the visit. Measure again before ordering.]
  ]
  == Before work starts
  #list(..d.cautions.map(c => [#c]))
]

#if d.cut == "full" { full } else if d.cut == "note" { note } else if d.cut == "insurer" { insurer } else { trade }
