//! What the typesetter may see: the template, the data, the bundled fonts and the pictures of this job. Nothing else, so
//! that a report is the same on every machine.

use crate::sources::PictureSource;
use std::path::Path;
use std::sync::OnceLock;
use typst::diag::{FileError, FileResult};
use typst::foundations::{Bytes, Datetime, Duration};
use typst::syntax::{FileId, RootedPath, Source, VirtualPath, VirtualRoot};
use typst::text::{Font, FontBook};
use typst::utils::LazyHash;
use typst::{Library, LibraryExt, World};

/// The template, the main file first.
const TEMPLATE: [(&str, &str); 3] = [
    ("/report.typ", include_str!("template/report.typ")),
    ("/style.typ", include_str!("template/style.typ")),
    ("/annexes.typ", include_str!("template/annexes.typ")),
];
const FONTS: [&[u8]; 4] = [
    include_bytes!("../fonts/AtkinsonHyperlegibleNext-Regular.ttf"),
    include_bytes!("../fonts/AtkinsonHyperlegibleNext-Bold.ttf"),
    include_bytes!("../fonts/AtkinsonHyperlegibleMono-Regular.ttf"),
    include_bytes!("../fonts/DejaVuSans.ttf"),
];

pub(crate) struct Shelf {
    sources: Vec<Source>,
    library: LazyHash<Library>,
    book: LazyHash<FontBook>,
    fonts: Vec<Font>,
}

/// Library and fonts, read once.
pub(crate) fn shelf() -> &'static Shelf {
    static SHELF: OnceLock<Shelf> = OnceLock::new();
    SHELF.get_or_init(|| {
        let fonts: Vec<Font> = FONTS.iter().flat_map(|f| Font::iter(Bytes::new(*f))).collect();
        let mut sources: Vec<Source> = TEMPLATE.iter().map(|(path, text)| Source::new(id(path), (*text).to_owned())).collect();
        sources.push(Source::new(id("/tones.typ"), drawing::typst_tones()));
        Shelf { sources, library: LazyHash::new(Library::default()), book: LazyHash::new(FontBook::from_fonts(&fonts)), fonts }
    })
}

/// Whether a bundled font can draw a character.
pub(crate) fn can_print(c: char) -> bool {
    shelf().fonts.iter().any(|f| f.info().coverage.contains(c as u32))
}

pub(crate) struct ReportWorld<'a> {
    data: Bytes,
    wheel: Bytes,
    pictures: &'a dyn PictureSource,
}

fn id(path: &str) -> FileId {
    RootedPath::new(VirtualRoot::Project, VirtualPath::new(path).expect("a fixed path")).intern()
}

impl<'a> ReportWorld<'a> {
    pub(crate) fn new(data: Vec<u8>, wheel: String, pictures: &'a dyn PictureSource) -> Self {
        ReportWorld { data: Bytes::new(data), wheel: Bytes::new(wheel.into_bytes()), pictures }
    }
}

impl World for ReportWorld<'_> {
    fn library(&self) -> &LazyHash<Library> {
        &shelf().library
    }
    fn book(&self) -> &LazyHash<FontBook> {
        &shelf().book
    }
    fn main(&self) -> FileId {
        shelf().sources[0].id()
    }
    fn source(&self, file: FileId) -> FileResult<Source> {
        let found = shelf().sources.iter().find(|s| s.id() == file);
        found.cloned().ok_or_else(|| FileError::NotFound(file.vpath().get_without_slash().into()))
    }
    fn file(&self, file: FileId) -> FileResult<Bytes> {
        let path = file.vpath().get_without_slash();
        match path {
            "data.json" => Ok(self.data.clone()),
            "wheel.svg" => Ok(self.wheel.clone()),
            other => {
                let hash = other.strip_prefix("pictures/").and_then(|n| n.split('.').next());
                hash.and_then(|h| self.pictures.bytes(h)).map(Bytes::new).ok_or_else(|| FileError::NotFound(Path::new(other).into()))
            }
        }
    }
    fn font(&self, index: usize) -> Option<Font> {
        shelf().fonts.get(index).cloned()
    }
    fn today(&self, _: Option<Duration>) -> Option<Datetime> {
        None
    }
}
