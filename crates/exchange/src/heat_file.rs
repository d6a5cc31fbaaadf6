//! A picture of heat as a table: figures parted by commas, semicolons or tabs, a row to a line; an empty field is a gap.

/// Lines and fields a camera's table has at most.
const MOST_CELLS: usize = 400_000;

/// Reads the grid of a picture of heat.
///
/// # Errors
/// Which line cannot be read and what to do.
pub fn heat_grid(text: &str) -> Result<Vec<Vec<Option<f64>>>, String> {
    let lines: Vec<&str> = text.trim_start_matches('\u{feff}').lines().map(str::trim_end).filter(|l| !l.trim().is_empty()).collect();
    if lines.is_empty() {
        return Err("The file is empty. Save the camera's temperatures as a table, a row to a line.".into());
    }
    // A comma is a decimal sign where semicolons or tabs part the fields.
    let first = lines[0];
    let part = if first.contains(';') {
        ';'
    } else if first.contains('\t') {
        '\t'
    } else {
        ','
    };
    let mut out = Vec::with_capacity(lines.len());
    let mut cells = 0;
    for (n, line) in lines.iter().enumerate() {
        let row: Vec<Option<f64>> = line
            .split(part)
            .map(|f| {
                let f = f.trim().trim_matches('"');
                let f = if part == ',' { f.to_owned() } else { f.replace(',', ".") };
                match f.as_str() {
                    "" | "-" | "nan" | "NaN" => Ok(None),
                    v => v.parse::<f64>().map(Some).map_err(|_| {
                        let shown: String = v.chars().take(20).collect();
                        format!("Line {}: \u{201c}{shown}\u{201d} is no temperature. Save the figures alone, without a head.", n + 1)
                    }),
                }
            })
            .collect::<Result<_, String>>()?;
        cells += row.len();
        if cells > MOST_CELLS {
            return Err(format!("The table has more than {MOST_CELLS} figures. Take every second row and column."));
        }
        out.push(row);
    }
    Ok(out)
}

/// A picture of heat that was read.
#[derive(Debug, Clone, PartialEq)]
pub struct HeatCells {
    /// Temperatures, °C, row by row from the top; none where there is a gap.
    pub grid: Vec<Vec<Option<f64>>>,
    /// So many pixels a side became one cell.
    pub side: u32,
}

/// Edge of a picture of heat at most, pixels.
const MOST_EDGE: u32 = 4096;

/// Reads a picture of heat from a PNG of 16 bits of grey: each step over nought is so many degrees over `zero_c`. What is black (0) or full
/// (65535) is a gap. Where it holds more than `most` cells, squares of them become one, their mean.
///
/// # Errors
/// What the file is instead, with what to do.
pub fn heat_png(bytes: &[u8], zero_c: f64, step_c: f64, most: usize) -> Result<HeatCells, String> {
    if !(step_c.is_finite() && step_c > 0.0 && zero_c.is_finite()) {
        return Err("Say how many degrees one step of grey is, and the temperature of grey 0.".into());
    }
    let no = |e: image::ImageError| format!("This is no PNG that can be read: {e}. Save the temperatures as PNG with 16 bits of grey.");
    let mut reader = image::ImageReader::with_format(std::io::Cursor::new(bytes), image::ImageFormat::Png);
    let mut limits = image::Limits::default();
    (limits.max_image_width, limits.max_image_height) = (Some(MOST_EDGE), Some(MOST_EDGE));
    reader.limits(limits);
    let picture = match reader.decode().map_err(no)? {
        image::DynamicImage::ImageLuma16(p) => p,
        other => {
            return Err(format!(
                "The picture has {:?}, not 16 bits of grey: colours are no temperatures. Save the radiometric picture, not the one for looking at.",
                other.color()
            ));
        }
    };
    let (w, h) = picture.dimensions();
    let mut side = 1;
    while (w.div_ceil(side) as usize) * (h.div_ceil(side) as usize) > most {
        side += 1;
    }
    let cell = |cx: u32, cy: u32| {
        let inside = |x: u32, y: u32| (x < w && y < h).then(|| picture.get_pixel(x, y).0[0]).filter(|v| *v > 0 && *v < u16::MAX);
        let of: Vec<f64> = (0..side * side).filter_map(|k| inside(cx * side + k % side, cy * side + k / side)).map(f64::from).collect();
        (!of.is_empty()).then(|| zero_c + step_c * of.iter().sum::<f64>() / of.len() as f64)
    };
    // Part cells at the far edges would be smaller than the rest: they are left out, unless there is nothing else.
    let (cols, rows) = ((w / side).max(1), (h / side).max(1));
    Ok(HeatCells { grid: (0..rows).map(|y| (0..cols).map(|x| cell(x, y)).collect()).collect(), side })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn png(w: u32, h: u32, grey: impl Fn(u32, u32) -> u16) -> Vec<u8> {
        let picture = image::ImageBuffer::<image::Luma<u16>, Vec<u16>>::from_fn(w, h, |x, y| image::Luma([grey(x, y)]));
        let mut out = std::io::Cursor::new(Vec::new());
        image::DynamicImage::ImageLuma16(picture).write_to(&mut out, image::ImageFormat::Png).unwrap();
        out.into_inner()
    }

    #[test]
    fn greys_are_temperatures_and_what_is_too_fine_is_averaged() {
        // Hundredths of a kelvin: 293.15 K is 20 degrees.
        let HeatCells { grid, side } =
            heat_png(&png(3, 2, |x, y| if (x, y) == (2, 1) { 0 } else { 29315 + 100 * x as u16 }), -273.15, 0.01, 100).unwrap();
        assert_eq!((grid.len(), grid[0].len(), side, grid[1][2]), (2, 3, 1, None));
        assert!((grid[0][0].unwrap() - 20.0).abs() < 1e-9 && (grid[0][2].unwrap() - 22.0).abs() < 1e-9);
        // The mean of all is the mean of its squares, where all squares are whole.
        let fine = png(64, 32, |x, y| 1000 + (x * 7 + y * 13) as u16 % 500);
        let mean = |g: &[Vec<Option<f64>>]| {
            let all: Vec<f64> = g.iter().flatten().flatten().copied().collect();
            all.iter().sum::<f64>() / all.len() as f64
        };
        let HeatCells { grid: whole, side: one } = heat_png(&fine, 0.0, 0.1, 10_000).unwrap();
        let HeatCells { grid: less, side: two } = heat_png(&fine, 0.0, 0.1, 512).unwrap();
        assert_eq!((one, two, less.len(), less[0].len()), (1, 2, 16, 32));
        assert!((mean(&whole) - mean(&less)).abs() < 1e-9);
    }

    #[test]
    fn what_is_no_temperature_is_refused() {
        let mut colour = std::io::Cursor::new(Vec::new());
        image::DynamicImage::new_rgb8(4, 4).write_to(&mut colour, image::ImageFormat::Png).unwrap();
        assert!(heat_png(&colour.into_inner(), 0.0, 0.1, 100).unwrap_err().contains("not 16 bits of grey"));
        assert!(heat_png(b"GIF89a", 0.0, 0.1, 100).unwrap_err().contains("no PNG"));
        assert!(heat_png(&png(2, 2, |_, _| 5), 0.0, 0.0, 100).unwrap_err().contains("one step of grey"));
        assert!(heat_png(&png(5000, 1, |_, _| 5), 0.0, 0.1, 100).is_err());
    }

    #[test]
    fn commas_semicolons_tabs_and_gaps() {
        assert_eq!(heat_grid("18.1,18.2\n,17.9\n").unwrap(), [[Some(18.1), Some(18.2)], [None, Some(17.9)]]);
        assert_eq!(heat_grid("18,1;18,2\r\n18,0;-").unwrap(), [[Some(18.1), Some(18.2)], [Some(18.0), None]]);
        assert_eq!(heat_grid("1\t2").unwrap(), [[Some(1.0), Some(2.0)]]);
    }

    #[test]
    fn a_head_or_nothing_is_refused_by_line() {
        assert!(heat_grid("a,b\n1,2").unwrap_err().starts_with("Line 1: \u{201c}a\u{201d} is no temperature"));
        assert!(heat_grid(" \n").unwrap_err().contains("empty"));
    }
}
