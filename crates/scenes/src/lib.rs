//! Sample pictures: plain line drawings that show what their note says. Never photographs of real property.

use exif::experimental::Writer;
use exif::{Field, In, Rational, Tag, Value};
use img_parts::ImageEXIF;
use img_parts::jpeg::Jpeg;
use resvg::{tiny_skia, usvg};
use std::io::Cursor;
use std::sync::{Arc, OnceLock};

const W: u32 = 960;
const H: u32 = 720;

/// A scene: name, caption, what is drawn on the ground of 960 by 720.
type Scene = (&'static str, &'static str, &'static str);

const INK: &str = "#1B2329";

// Colours: ink lines, plaster grounds, water blue only where there is water.
#[rustfmt::skip]
const ALL: [Scene; 32] = [
    ("gutter-clear", "Front gutter, clean and open", r##"<g class="l"><path class="f" d="M80 180L880 180L880 240L80 240Z"/><path class="p" d="M60 250H900L880 330H80Z"/><path d="M60 250H900M80 330H880"/><path d="M820 330V640M850 330V640"/><path class="t" d="M80 120h800M80 140h800M80 160h800"/></g>"##),
    ("stucco-crack", "Hairline crack from the window corner", r##"<g class="l"><rect class="p" x="120" y="160" width="340" height="400"/><path d="M290 160V560M120 360H460"/><path class="k" d="M460 160l40 -22l22 14l46 -40l38 6l70 -46"/><path class="d" d="M470 210l200 -130"/></g><text x="610" y="180" font-size="30">1/16 in</text>"##),
    ("spray-head", "Spray head beside the porch", r##"<g class="l"><rect class="p" x="60" y="80" width="260" height="480"/><path class="t" d="M60 140h260M60 210h260M60 280h260M60 350h260M60 420h260M60 490h260"/><path d="M40 560H920"/><path class="f" d="M420 560v-70h40v70z"/></g><path class="w" d="M440 488Q380 360 322 330M440 488Q400 410 322 400M440 488Q410 450 322 460"/><path class="d l" d="M322 610H440"/><text x="345" y="660" font-size="30">6 in</text>"##),
    ("downspout-extended", "Downspout led well away from the wall", r##"<g class="l"><rect class="p" x="60" y="60" width="180" height="520"/><path d="M240 120V540Q240 570 280 574L760 600M275 120V520Q275 540 300 542L760 566M760 566V600"/><path d="M40 580H240M300 590L920 640"/></g><path class="d l" d="M240 670H760"/><text x="450" y="655" font-size="30">2.4 m</text>"##),
    ("hail", "Test square with three hail hits", r##"<g class="l"><path class="p" d="M60 80H900V640H60Z"/><path class="t" d="M60 180H900M60 280H900M60 380H900M60 480H900M60 580H900M220 80v100M520 80v100M760 80v100M150 180v100M420 180v100M660 180v100M300 280v100M580 280v100M800 280v100M200 380v100M460 380v100M720 380v100M320 480v100M600 480v100"/><rect class="c" x="180" y="130" width="560" height="420"/></g><g fill="#4A545B"><circle cx="300" cy="250" r="17"/><circle cx="560" cy="330" r="15"/><circle cx="420" cy="460" r="16"/></g>"##),
    ("soffit-vents", "Soffit with a continuous clear vent", r##"<g class="l"><path class="p" d="M60 200L900 120V420L60 520Z"/><path d="M60 340L900 250M60 380L900 290"/><path class="t" d="M100 336v40M160 330v40M220 324v40M280 317v40M340 311v40M400 305v40M460 298v40M520 292v40M580 285v40M640 279v40M700 272v40M760 266v40M820 260v40"/><path d="M60 520V660M900 420V640"/></g>"##),
    ("stack", "Flue stack across the slope, no saddle behind it", r##"<g class="l"><path class="p" d="M40 120H920V660H40Z"/><path class="t" d="M40 200H920M40 280H920M40 360H920M40 440H920M40 520H920M40 600H920"/><path class="f" d="M330 300H650V560H330Z"/><path d="M330 340h320M330 380h320M330 420h320M330 460h320M330 500h320"/></g><path fill="#7A5600" opacity=".5" d="M320 300q20 -60 80 -40q30 -40 80 -10q60 -30 90 12q70 -18 90 38z"/><path class="d l" d="M330 620H650"/><text x="440" y="668" font-size="30">1.15 m</text>"##),
    ("valley", "Valley lining whole and open", r##"<g class="l"><path class="p" d="M60 60H900L520 660H440Z"/><path class="f" d="M440 60H520V660H440Z"/><path d="M440 60V660M520 60V660M480 60V660"/><path class="t" d="M100 120L440 170M140 200L440 250M180 280L440 330M240 380L440 410M860 120L520 170M820 200L520 250M780 280L520 330M720 380L520 410"/></g>"##),
    ("gutter-backfall", "Water standing at the closed end of the rear gutter", r##"<g class="l"><path class="p" d="M60 330L900 300V420L60 450Z"/><path d="M60 300V450M60 330L900 300M60 450L900 420"/><path d="M860 420V660M892 419V660"/></g><path fill="#1E5FA8" opacity=".75" d="M66 360L560 360L66 440Z"/><path class="d l" d="M60 250L900 220"/><text x="400" y="205" font-size="30">12 mm over 7.5 m</text>"##),
    ("fascia", "Soft fascia behind the gutter end", r##"<g class="l"><rect class="p" x="60" y="180" width="840" height="170"/><path class="f" d="M60 350H640V430H60Z"/><path d="M640 350V430"/><path class="t" d="M60 120H900M60 145H900"/></g><path fill="#4A545B" opacity=".55" d="M640 200q60 -20 130 10q70 10 60 70q10 60 -70 66q-80 12 -120 -10z"/><path class="d l" d="M640 480H830"/><text x="690" y="530" font-size="30">2 ft</text>"##),
    ("valley-spill", "Streaks on the gutter below the valley foot", r##"<g class="l"><path class="p" d="M60 60H420L500 250H60ZM900 60H580L500 250H900Z"/><path class="f" d="M60 270H900V360H60Z"/></g><path class="w" d="M500 250Q480 320 470 640M500 250Q520 320 526 640M500 250V640"/><g fill="#4A545B" opacity=".6"><path d="M400 300h14v60h-14zM440 300h12v60h-12zM560 300h14v60h-14zM600 300h10v60h-10z"/></g>"##),
    ("mud-line", "Mud line on the stucco along the store room", r##"<g class="l"><rect class="p" x="40" y="60" width="880" height="500"/><path d="M40 560H920"/></g><path fill="#7A5600" opacity=".45" d="M40 560V440q60 20 120 -6t130 10t140 -14t150 16t160 -10t180 8V560Z"/><path class="d l" d="M870 560V440"/><text x="740" y="510" font-size="30">8 in</text>"##),
    ("paving", "Paving that falls to the wall", r##"<g class="l"><rect class="p" x="60" y="60" width="200" height="480"/><path class="f" d="M260 540L900 480V560L260 620Z"/><path d="M420 525v80M580 510v80M740 495v80"/></g><path class="w" d="M800 470L300 515m30 -22l-30 22l36 12"/><text x="520" y="450" font-size="30">1 % to the wall</text>"##),
    ("skylight", "Open corner on the uphill side of the skylight", r##"<g class="l"><path class="p" d="M60 80H900V640H60Z"/><path class="t" d="M60 160H900M60 240H900M60 320H900M60 400H900M60 480H900M60 560H900"/><rect class="f" x="330" y="200" width="300" height="340"/><rect x="360" y="230" width="240" height="280"/><path class="k" d="M590 200l12 26l28 6"/></g><circle class="c l" cx="606" cy="222" r="46"/>"##),
    ("downspout-at-wall", "Half-round outlet onto the paving beside the wall", r##"<g class="l"><rect class="p" x="60" y="60" width="240" height="500"/><path d="M330 60V500Q330 530 370 530M370 60V480Q370 492 384 494V530"/><path d="M40 560H920"/></g><path class="w" d="M378 520q10 20 -10 36M384 520q60 20 90 38M330 556H560"/><path class="d l" d="M300 620H384"/><text x="300" y="670" font-size="30">0.3 m</text>"##),
    ("open-box", "Open box with wires over the side door", r##"<g class="l"><path class="t" d="M60 120H900M60 200H900M60 280H900M60 360H900M60 440H900"/><rect class="f" x="400" y="170" width="160" height="160"/><path class="k" d="M440 300q-20 60 10 110M480 310q10 70 -6 120M520 300q30 50 14 100"/><path d="M300 460H660V690M300 460V690"/></g>"##),
    ("swale", "Silt bar across the swale", r##"<g class="l"><path d="M40 300Q240 320 340 470Q480 620 620 470Q720 330 920 320"/><path class="t" d="M40 330Q230 350 320 490M920 350Q740 360 640 490"/></g><path fill="#7A5600" opacity=".5" d="M350 480Q480 420 610 480Q480 600 350 480Z"/><path class="w" d="M120 250l120 70m-6 -24l6 24l-26 4M180 220l120 70"/>"##),
    ("ceiling-stain", "Stain on the treatment room ceiling", r##"<g class="l"><path class="p" d="M60 120H900L760 560H200Z"/><path d="M60 120L200 560M900 120L760 560"/></g><g fill="#7A5600"><ellipse cx="500" cy="300" rx="170" ry="86" opacity=".25"/><ellipse cx="500" cy="300" rx="130" ry="62" opacity=".3"/></g><ellipse class="l" cx="500" cy="300" rx="170" ry="86"/><path class="d l" d="M330 420H670"/><text x="455" y="465" font-size="30">14 in</text>"##),
    ("skirting", "Damp strip at the store room skirting", r##"<g class="l"><rect class="p" x="60" y="60" width="840" height="500"/><rect class="f" x="60" y="560" width="840" height="80"/></g><path fill="#4A545B" opacity=".35" d="M240 560q20 -70 120 -60t160 -10t140 70z"/><rect class="l f" x="620" y="380" width="90" height="150"/><path class="l" d="M650 530v28M680 530v28"/><text x="634" y="450" font-size="30">high</text>"##),
    ("head-reversed", "Head strip laid under the side strips", r##"<g class="l"><rect class="p" x="260" y="200" width="440" height="400"/><path class="f" d="M180 130H780V200H180Z"/><path class="f" d="M190 110H260V610H190ZM700 110H770V610H700Z"/><path class="k" d="M190 110H260M700 110H770"/></g><circle class="c l" cx="226" cy="150" r="66"/><circle class="c l" cx="736" cy="150" r="66"/>"##),
    ("overdriven", "A row of fasteners driven through the board's face", r##"<g class="l"><rect class="p" x="60" y="80" width="840" height="560"/><path class="t" d="M60 220H900M60 500H900"/><rect x="300" y="80" width="360" height="140"/></g><g fill="#4A545B"><circle cx="140" cy="360" r="20"/><circle cx="280" cy="360" r="21"/><circle cx="420" cy="360" r="19"/><circle cx="560" cy="360" r="22"/><circle cx="700" cy="360" r="20"/><circle cx="840" cy="360" r="21"/></g><g fill="#FBFAF7"><circle cx="140" cy="360" r="7"/><circle cx="280" cy="360" r="7"/><circle cx="420" cy="360" r="7"/><circle cx="560" cy="360" r="7"/><circle cx="700" cy="360" r="7"/><circle cx="840" cy="360" r="7"/></g>"##),
    ("pan-corner", "Pan flashing cut at its corner", r##"<g class="l"><path class="p" d="M160 60H260V520H880V620H160Z"/><path d="M260 60V520H880"/><path class="f" d="M260 400V520H880V480H300V400Z"/><path class="k" d="M240 540l60 -60M262 518l-14 40"/></g><circle class="c l" cx="270" cy="514" r="70"/>"##),
    ("slab-edge", "Slab edge proud of the wall", r##"<g class="l"><rect class="p" x="60" y="60" width="380" height="420"/><path class="f" d="M60 480H560V640H60Z"/><path d="M440 480V60"/></g><path class="w" d="M446 474H556"/><path class="d l" d="M440 430H560"/><text x="450" y="410" font-size="30">1 1/4 in</text>"##),
    ("duct", "Duct through the barrier, not sealed", r##"<g class="l"><rect class="p" x="60" y="80" width="840" height="560"/><path class="t" d="M60 260H900M60 460H900"/><circle cx="480" cy="350" r="150"/><circle class="f" cx="490" cy="356" r="112"/></g><path class="d l" d="M480 200V244"/><text x="500" y="190" font-size="30">1/2 in</text>"##),
    ("light-mended", "New light on a closed box over the side door", r##"<g class="l"><path class="t" d="M60 120H900M60 200H900M60 280H900M60 360H900M60 440H900"/><rect class="f" x="400" y="170" width="160" height="160"/><path class="p" d="M420 330H540L580 430H380Z"/><circle cx="480" cy="444" r="18"/><path d="M300 500H660V690M300 500V690"/></g>"##),
    ("gutter-rehung", "The rear gutter hung anew, running to its outlet", r##"<g class="l"><path class="p" d="M60 300L900 340V460L60 420Z"/><path d="M60 270V420M60 300L900 340M60 420L900 460"/><path d="M860 460V660M892 460V660"/><path class="t" d="M200 300v60M380 309v60M560 317v60M740 326v60"/></g><path class="w" d="M120 380L820 414m-30 -16l30 16l-32 12"/><path class="d l" d="M60 240L900 280"/><text x="400" y="225" font-size="30">20 mm over 7.5 m</text>"##),
    ("mastic", "Mastic smeared over the lifted chimney flashing", r##"<g class="l"><path class="p" d="M40 120H920V660H40Z"/><path class="t" d="M40 220H920M40 320H920M40 520H920M40 620H920"/><path class="f" d="M330 140H650V430H330Z"/><path d="M330 200h320M330 260h320M330 320h320M330 380h320"/><path class="k" d="M300 440L690 424"/></g><path fill="#1B2329" opacity=".7" d="M296 420q40 -26 90 -8q60 20 110 -6q70 -20 110 8q60 4 80 24q-40 34 -110 20q-60 -14 -120 8q-90 18 -160 -46z"/>"##),
    ("fascia-covered", "A new board over the old fascia", r##"<g class="l"><rect class="p" x="60" y="180" width="840" height="170"/><path class="f" d="M60 350H640V430H60Z"/><rect class="f" x="600" y="196" width="280" height="140"/><path class="t" d="M60 120H900M60 145H900"/></g><g fill="#1B2329"><circle cx="626" cy="222" r="6"/><circle cx="854" cy="222" r="6"/><circle cx="626" cy="310" r="6"/><circle cx="854" cy="310" r="6"/></g>"##),
    ("bracket", "Bracket bolted through the shingles", r##"<g class="l"><path class="p" d="M60 80H900V640H60Z"/><path class="t" d="M60 180H900M60 280H900M60 380H900M60 480H900M60 580H900"/><path class="f" d="M380 340H580V440H380Z"/><path d="M480 390L560 140M480 390L440 150M430 130H580"/></g><g fill="#1B2329"><circle cx="404" cy="364" r="9"/><circle cx="556" cy="364" r="9"/><circle cx="404" cy="416" r="9"/><circle cx="556" cy="416" r="9"/></g>"##),
    ("ridge-creased", "Ridge pieces creased along the wind side", r##"<g class="l"><path class="p" d="M40 640L480 160L920 640Z"/><path class="f" d="M120 470L480 90L840 470L780 520L480 200L180 520Z"/><path class="t" d="M240 345L300 395M360 218L420 268M720 345L660 395M600 218L540 268"/></g><path class="l k" d="M150 500L240 400M270 372L350 284"/><text x="60" y="700" font-size="26">crease</text><path class="l" d="M150 690L215 430"/>"##),
    ("gutter-dents", "Fresh dents along the lake gutter", r##"<g class="l"><path class="p" d="M60 200H900L860 420H100Z"/><path class="f" d="M60 170H900V205H60Z"/></g><g class="l"><circle cx="210" cy="300" r="22"/><circle cx="330" cy="350" r="16"/><circle cx="470" cy="285" r="24"/><circle cx="600" cy="340" r="18"/><circle cx="740" cy="300" r="20"/></g><path class="l" d="M446 470H494M446 460V480M494 460V480"/><text x="510" y="480" font-size="26">16 mm</text>"##),
    ("old-feet", "Grey cracks along the line to the stove pipe", r##"<g class="l"><path class="p" d="M60 80H900V640H60Z"/><path class="t" d="M60 190H900M60 300H900M60 410H900M60 520H900"/><rect class="f" x="740" y="110" width="70" height="120"/></g><g class="l"><path d="M150 600V550M250 510V450M360 400V345M470 380V330M570 290V240M660 270V210"/></g><path class="t" d="M130 620Q420 420 730 220" fill="none" stroke-dasharray="14 10"/>"##),
];

/// The names of the scenes.
pub const SCENES: [&str; 32] = {
    let mut names = [""; 32];
    let mut i = 0;
    while i < 32 {
        names[i] = ALL[i].0;
        i += 1;
    }
    names
};

fn fonts() -> Arc<usvg::fontdb::Database> {
    static FONTS: OnceLock<Arc<usvg::fontdb::Database>> = OnceLock::new();
    FONTS
        .get_or_init(|| {
            let mut db = usvg::fontdb::Database::new();
            db.load_font_data(include_bytes!("../../report/fonts/AtkinsonHyperlegibleNext-Regular.ttf").to_vec());
            Arc::new(db)
        })
        .clone()
}

fn svg(body: &str, caption: &str) -> String {
    format!(
        r##"<svg xmlns="http://www.w3.org/2000/svg" width="{W}" height="{H}" viewBox="0 0 {W} {H}" font-family="Atkinson Hyperlegible Next" fill="{INK}">
<style>.l{{fill:none;stroke:{INK};stroke-width:4}} .p{{fill:#F2EFE8}} .f{{fill:#E4DFD3}} .t{{stroke:#4A545B;stroke-width:2}} .k{{stroke-width:7}} .d{{stroke-width:3;stroke-dasharray:12 8}} .w{{fill:none;stroke:#1E5FA8;stroke-width:7}} .c{{fill:none;stroke:#9A4B1F;stroke-width:6}}</style>
<rect width="{W}" height="{H}" fill="#FBFAF7"/>{body}
<text x="40" y="44" font-size="24" fill="#4A545B">sample · {caption}</text></svg>"##
    )
}

/// Draws a scene as JPEG with the time and heading a camera would write; gives its caption too.
pub fn draw(name: &str, taken: &str, heading: Option<f64>) -> Option<(Vec<u8>, &'static str)> {
    let (_, caption, body) = ALL.iter().find(|s| s.0 == name)?;
    let options = usvg::Options { fontdb: fonts(), ..usvg::Options::default() };
    let tree = usvg::Tree::from_str(&svg(body, caption), &options).ok()?;
    let mut pixmap = tiny_skia::Pixmap::new(W, H)?;
    resvg::render(&tree, tiny_skia::Transform::identity(), &mut pixmap.as_mut());
    let rgb: Vec<u8> = pixmap.data().chunks_exact(4).flat_map(|p| [p[0], p[1], p[2]]).collect();
    let image = image::RgbImage::from_raw(W, H, rgb)?;
    let mut bytes = Vec::new();
    image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, 88).encode_image(&image).ok()?;
    let mut jpeg = Jpeg::from_bytes(bytes.into()).ok()?;
    jpeg.set_exif(Some(camera_data(taken, heading)?.into()));
    Some((jpeg.encoder().bytes().to_vec(), caption))
}

fn camera_data(taken: &str, heading: Option<f64>) -> Option<Vec<u8>> {
    let time = format!("{}:00", taken.replace('-', ":"));
    let field = |tag, value| Field { tag, ifd_num: In::PRIMARY, value };
    let mut fields = vec![field(Tag::DateTimeOriginal, Value::Ascii(vec![time.into_bytes()]))];
    if let Some(h) = heading {
        fields.push(field(Tag::GPSImgDirectionRef, Value::Ascii(vec![b"T".to_vec()])));
        fields.push(field(Tag::GPSImgDirection, Value::Rational(vec![Rational { num: (h * 100.0).round() as u32, denom: 100 }])));
    }
    let mut writer = Writer::new();
    for f in &fields {
        writer.push_field(f);
    }
    let mut out = Cursor::new(Vec::new());
    writer.write(&mut out, false).ok()?;
    Some(out.into_inner())
}
