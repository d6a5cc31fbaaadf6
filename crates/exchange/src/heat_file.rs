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

#[cfg(test)]
mod tests {
    use super::*;

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
