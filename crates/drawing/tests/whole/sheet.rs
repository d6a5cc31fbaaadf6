//! A drawing read with a ruler: what stands where, how long a line is, how much a shape covers, by the drawing's own scale.

use roxmltree::{Document, Node};

pub(crate) type Point = [f64; 2];

/// How exactly a drawing is written: a tenth of a unit.
pub(crate) const GRAIN: f64 = 0.1;

pub(crate) fn figure(n: Node<'_, '_>, name: &str) -> f64 {
    n.attribute(name).and_then(|v| v.parse().ok()).unwrap_or_else(|| panic!("{name} of {n:?}"))
}

pub(crate) fn all<'a>(sheet: &'a Document<'_>, tag: &'static str) -> impl Iterator<Item = Node<'a, 'a>> {
    sheet.descendants().filter(move |n| n.has_tag_name(tag))
}

/// The thing of a drawing that bears a key.
pub(crate) fn keyed<'a>(sheet: &'a Document<'_>, attribute: &str, key: &str) -> Node<'a, 'a> {
    sheet.descendants().find(|n| n.attribute(attribute) == Some(key)).unwrap_or_else(|| panic!("no {attribute} {key}"))
}

pub(crate) fn ends(line: Node<'_, '_>) -> [Point; 2] {
    [[figure(line, "x1"), figure(line, "y1")], [figure(line, "x2"), figure(line, "y2")]]
}

pub(crate) fn middle(circle: Node<'_, '_>) -> Point {
    [figure(circle, "cx"), figure(circle, "cy")]
}

pub(crate) fn far([p, q]: [Point; 2]) -> f64 {
    (q[0] - p[0]).hypot(q[1] - p[1])
}

/// The corners of a curve.
pub(crate) fn curve(polyline: Node<'_, '_>) -> Vec<Point> {
    let points = polyline.attribute("points").unwrap();
    points.split_whitespace().map(|p| p.split_once(',').unwrap()).map(|(x, y)| [x.parse().unwrap(), y.parse().unwrap()]).collect()
}

/// The rings of a path that is made of straight lines alone.
pub(crate) fn rings(path: Node<'_, '_>) -> Vec<Vec<Point>> {
    let data = path.attribute("d").unwrap();
    let ring = |r: &str| r.split(['M', 'L']).filter(|p| !p.is_empty()).map(corner).collect();
    data.split('Z').filter(|r| !r.is_empty()).map(ring).collect()
}

fn corner(p: &str) -> Point {
    let (x, y) = p.trim().split_once(' ').unwrap();
    [x.parse().unwrap(), y.parse().unwrap()]
}

/// What a ring covers.
pub(crate) fn covers(ring: &[Point]) -> f64 {
    let next = |k: usize| ring[(k + 1) % ring.len()];
    (0..ring.len()).map(|k| ring[k][0] * next(k)[1] - next(k)[0] * ring[k][1]).sum::<f64>().abs() / 2.0
}

/// The most by which what a ring covers can be off for the grain it is written with.
pub(crate) fn slack(ring: &[Point]) -> f64 {
    let round: f64 = (0..ring.len()).map(|k| far([ring[k], ring[(k + 1) % ring.len()]])).sum();
    GRAIN * (round + 1.0)
}

/// Units of the drawing to the metre, taken from the bar that is drawn for it.
pub(crate) fn scale(sheet: &Document<'_>) -> f64 {
    let said = |n: Node<'_, '_>| -> Option<(f64, f64)> {
        let (figure, unit) = n.text()?.split_once(' ')?;
        let metre = match unit {
            "m" => 1.0,
            "ft" => 0.3048,
            _ => return None,
        };
        Some((figure.parse().ok()?, metre))
    };
    let bars: Vec<f64> = all(sheet, "text")
        .filter_map(|t| Some((t, said(t)?)))
        .filter_map(|(t, (long, metre))| {
            // The bar ends six units before its word, four above its foot.
            let end = [figure(t, "x") - 6.0, figure(t, "y") - 4.0];
            let near = |p: Point| far([p, end]) < 3.0 * GRAIN;
            let bar = all(sheet, "line").map(ends).find(|[p, q]| near(*q) && (p[1] - q[1]).abs() < GRAIN && q[0] - p[0] > 4.0)?;
            Some(far(bar) / (long * metre))
        })
        .collect();
    assert_eq!(bars.len(), 1, "one bar says the scale");
    bars[0]
}
