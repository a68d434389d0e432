//! The arena as a picture, where the terminal can draw real pixels: kitty's graphics or sixels. Cells are what every
//! terminal has; the picture lies over them, and nothing is lost without it.

use std::fmt::Write;
use std::sync::Arc;
use std::time::{Duration, Instant};

use base64_simd::STANDARD;
use image::{DynamicImage, RgbaImage};
use miniz_oxide::deflate::compress_to_vec_zlib;
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::widgets::{Clear, Widget};
use ratatui_image::picker::{Picker, ProtocolType};
use ratatui_image::protocol::Protocol;
use ratatui_image::{FontSize, Image, Resize};
use tickpond_sim::Who;
use tiny_skia::Pixmap;

use super::app::App;
use super::arena::raster::{Shown, raster};
use super::arena::{Camera, Layers, View, parts};
use super::inquiry::Abilities;
use super::layout::body;
use super::palette::Palette;
use super::settings::Theme;
use super::snapshot::Snapshot;

/// Shortest time from one picture to the next.
const BETWEEN: Duration = Duration::from_millis(80);
/// Pixels of a cell where the terminal does not tell.
const USUAL_CELL: (u16, u16) = (10, 20);
/// The number of the picture among the terminal's.
const NUMBER: u32 = 7341;
/// Most signs of a picture in one escape sequence.
const CHUNK: usize = 4096;

/// What was drawn last: while it is the same, it is not drawn again.
#[derive(PartialEq)]
struct Drawn {
    snapshot: *const Snapshot,
    camera: Camera,
    layers: Layers,
    focus: Option<Who>,
    cross: [Option<(f64, f64)>; 2],
    area: Rect,
    theme: Theme,
}

/// The terminal's way to show a picture, and the one that is shown.
pub struct Pixels {
    picker: Option<Picker>,
    /// What was drawn last, and when. Its snapshot is kept: as long as it is, no other can come to lie where it lies, and
    /// be taken for it.
    drawn: Option<(Drawn, Arc<Snapshot>, Instant)>,
    sixels: Option<Protocol>,
    /// Whether a picture lies over the cells.
    placed: bool,
    /// Shortest time from one picture to the next.
    between: Duration,
    /// Whether what is shown is older than what there is.
    late: bool,
}

impl Default for Pixels {
    fn default() -> Pixels {
        let (picker, drawn, sixels) = (None, None, None);
        Pixels { picker, drawn, sixels, placed: false, between: BETWEEN, late: false }
    }
}

impl Pixels {
    /// Begins with what the terminal has said of itself.
    ///
    /// # Errors
    /// Why there will be no picture.
    pub fn begin(&mut self, abilities: Abilities) -> Result<(), &'static str> {
        let protocol = match (abilities.kitty, abilities.sixels) {
            (true, _) => ProtocolType::Kitty,
            (false, true) => ProtocolType::Sixel,
            _ => return Err("it has neither kitty's graphics nor sixels"),
        };
        let (width, height) = abilities.cell.or_else(cell_of_window).unwrap_or(USUAL_CELL);
        #[expect(deprecated, reason = "the terminal has been asked, in a way that eats no key")]
        let mut picker = Picker::from_fontsize(FontSize { width, height });
        picker.set_protocol_type(protocol);
        self.picker = Some(picker);
        Ok(())
    }

    /// Whether a picture can be shown.
    pub fn is_ready(&self) -> bool {
        self.picker.is_some()
    }

    /// Whether the picture that is shown is older than what there is, because the one before it is too new: it is to
    /// be asked again.
    pub fn is_late(&self) -> bool {
        self.late
    }

    /// The rows and columns of the arena, if a picture of it is to be seen: not while something lies over it.
    fn place(app: &App) -> Option<Rect> {
        let covered = app.over.menu.is_some() || app.over.help.is_some();
        let areas =
            app.areas().filter(|areas| app.arena.pixels && !covered && !areas.arena.is_empty());
        let (area, _) = parts(body(areas?.arena));
        app.snapshot.cast.is_some().then_some(area)
    }

    /// A new picture, if what is shown has changed and the last is not too new.
    fn picture(&mut self, app: &App, area: Rect, cell: (u16, u16)) -> Option<Pixmap> {
        let looks = app.looks();
        let now = Drawn {
            snapshot: Arc::as_ptr(&app.snapshot),
            camera: app.arena.camera,
            layers: app.arena.layers,
            focus: app.seen_focus().map(|seen| seen.who),
            cross: [looks.cross, looks.measured_from],
            area,
            theme: app.settings.theme,
        };
        self.late = false;
        if let Some((drawn, _, when)) = &self.drawn {
            if *drawn == now {
                return None;
            }
            self.late = self.placed && drawn.area == area && when.elapsed() < self.between;
            if self.late {
                return None;
            }
        }
        let picture = picture_of(app, area, cell)?;
        self.drawn = Some((now, app.snapshot.clone(), Instant::now()));
        Some(picture)
    }

    /// Sixels are a part of the cells' own stream: they are put in with them. Beneath a picture there is nothing in the
    /// cells: what the picture leaves free would show pieces of it.
    pub fn draw(&mut self, app: &App, cells: &mut Cells) {
        let Some(picker) = self.picker.clone() else { return };
        let is_sixel = picker.protocol_type() == ProtocolType::Sixel;
        let Some(area) = Self::place(app) else {
            if is_sixel {
                (self.drawn, self.sixels, self.placed) = (None, None, false);
            }
            self.late = false;
            return;
        };
        if self.placed {
            Clear.render(area, cells);
        }
        if !is_sixel {
            return;
        }
        let font = picker.font_size();
        if let Some(picture) = self.picture(app, area, (font.width, font.height)) {
            let (width, height) = (picture.width(), picture.height());
            let pixels = RgbaImage::from_raw(width, height, picture.take_demultiplied());
            let image = pixels.map(DynamicImage::ImageRgba8);
            let size = (area.width, area.height).into();
            self.sixels =
                image.and_then(|image| picker.new_protocol(image, size, Resize::Fit(None)).ok());
        }
        if let Some(sixels) = &self.sixels {
            Image::new(sixels).render(area, cells);
            self.placed = true;
        }
    }

    /// What the terminal is told behind the cells, with kitty's graphics: the picture, or that there is none any more.
    pub fn after(&mut self, app: &App) -> Option<String> {
        let picker = self.picker.clone().filter(|p| p.protocol_type() == ProtocolType::Kitty)?;
        let Some(area) = Self::place(app) else {
            self.drawn = None;
            return std::mem::take(&mut self.placed)
                .then(|| format!("\x1b_Ga=d,d=I,i={NUMBER},q=2\x1b\\"));
        };
        let font = picker.font_size();
        let picture = self.picture(app, area, (font.width, font.height))?;
        self.placed = true;
        Some(placed(&picture, area))
    }
}

/// Pixels of a cell by those of the whole window, where the system knows them.
fn cell_of_window() -> Option<(u16, u16)> {
    let size = crossterm::terminal::window_size().ok()?;
    let (width, height) =
        (size.width.checked_div(size.columns)?, size.height.checked_div(size.rows)?);
    (width > 0 && height > 0).then_some((width, height))
}

/// The arena in pixels, as it is looked at, in so many to a cell.
pub fn picture_of(app: &App, area: Rect, cell: (u16, u16)) -> Option<Pixmap> {
    let cast = app.snapshot.cast.as_ref()?;
    let (view, looks) = (View::through(&app.arena.camera, &cast.arena, area), app.looks());
    let shown = Shown { scene: &app.snapshot.scene, cast, view: &view, looks: &looks };
    raster(&shown, cell, &Palette::full(app.settings.theme))
}

/// The escape sequences of kitty's graphics that put a picture over some cells, in place of the one before. The cursor
/// is where it was afterwards.
fn placed(picture: &Pixmap, area: Rect) -> String {
    // Where there is no water the cells beneath shine through.
    let pixels = picture.clone().take_demultiplied();
    let packed = STANDARD.encode_to_string(compress_to_vec_zlib(&pixels, 1));
    let mut told = format!("\x1b7\x1b[{};{}H", area.y + 1, area.x + 1);
    let mut chunks = packed.as_bytes().chunks(CHUNK).peekable();
    let mut first = true;
    while let Some(chunk) = chunks.next() {
        let more = u8::from(chunks.peek().is_some());
        if first {
            let (width, height) = (picture.width(), picture.height());
            let (columns, rows) = (area.width, area.height);
            let _ = write!(
                told,
                "\x1b_Ga=T,f=32,o=z,s={width},v={height},i={NUMBER},p=1,c={columns},r={rows},C=1,q=2,m={more};"
            );
        } else {
            let _ = write!(told, "\x1b_Gm={more};");
        }
        first = false;
        told.push_str(std::str::from_utf8(chunk).unwrap_or(""));
        told.push_str("\x1b\\");
    }
    told.push_str("\x1b8");
    told
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::workbench::app::Document;
    use crate::workbench::befell::Befell;
    use rstest::rstest;
    use tickpond_lab::{Run, RunOptions};

    fn pixels(protocol: ProtocolType) -> Pixels {
        #[expect(deprecated, reason = "nothing is to be asked of a terminal")]
        let mut picker = Picker::from_fontsize(FontSize { width: 6, height: 12 });
        picker.set_protocol_type(protocol);
        Pixels { picker: Some(picker), between: Duration::ZERO, ..Pixels::default() }
    }

    fn app() -> (App, Run) {
        let text = "pond \"t\" { arena 80 x 40 }\nkind frog { body circle 2 u, sensor; on birth { speed = 5 u/s } }\n\
            place frog at (30, 10)\n";
        let program = tickpond_lang::compile(text).program.unwrap();
        let run = Run::new(program, RunOptions::default()).unwrap();
        let document = Document { path: None, name: "t.pond".into(), text: text.into() };
        let mut app = App::new(document, Default::default());
        app.resize(Rect::new(0, 0, 120, 40));
        app.observe(Arc::new(Snapshot::of(&run, 100, None, &mut Befell::default())));
        app.arena.pixels = true;
        (app, run)
    }

    /// A key that changes what is drawn, such as one that switches a layer.
    type Change = fn(&mut App);

    #[rstest]
    #[case::a_layer(|app: &mut App| app.arena.layers.switch('z'))]
    #[case::nearer(|app: &mut App| app.arena.camera.zoom(2.0))]
    #[case::another_size(|app: &mut App| drop(app.resize(Rect::new(0, 0, 100, 30))))]
    #[case::the_colours(|app: &mut App| app.settings.theme = Theme::Light)]
    fn what_changes_is_drawn_anew_and_nothing_else(#[case] change: Change) {
        let (mut app, _run) = app();
        let mut pixels = pixels(ProtocolType::Kitty);
        assert!(pixels.after(&app).is_some() && pixels.after(&app).is_none());
        change(&mut app);
        assert!(pixels.after(&app).is_some() && pixels.after(&app).is_none());
        // Soon after another it is put off, and not forgotten.
        pixels.between = Duration::MAX;
        app.arena.layers.switch('s');
        assert!(pixels.after(&app).is_none() && pixels.is_late());
        pixels.between = Duration::ZERO;
        assert!(pixels.after(&app).is_some() && !pixels.is_late());
    }

    #[rstest]
    fn a_tick_on_is_another_picture() {
        let (mut app, mut run) = app();
        let mut pixels = pixels(ProtocolType::Kitty);
        let first = pixels.after(&app).unwrap();
        run.play_to(60);
        app.observe(Arc::new(Snapshot::of(&run, 100, None, &mut Befell::default())));
        let second = pixels.after(&app).unwrap();
        assert_ne!(first, second, "the frog has swum on");
        app.arena.pixels = false;
        assert!(pixels.after(&app).unwrap().starts_with("\x1b_Ga=d,"), "it is taken away");
        assert_eq!(pixels.after(&app), None);
    }

    #[rstest]
    fn what_was_drawn_is_not_let_go_of_so_that_no_other_lies_in_its_place() {
        let (mut app, run) = app();
        let mut pixels = pixels(ProtocolType::Kitty);
        let seen = || Arc::new(Snapshot::of(&run, 100, None, &mut Befell::default()));
        let first = seen();
        app.observe(first.clone());
        assert!(pixels.after(&app).is_some());
        app.observe(seen());
        assert_eq!(Arc::strong_count(&first), 2, "the test's and the picture's");
        assert!(pixels.after(&app).is_some());
        assert_eq!(Arc::strong_count(&first), 1, "and only the last one is kept");
    }

    #[rstest]
    fn sixels_stand_in_the_cells_and_nothing_of_the_cells_beneath() {
        let (mut app, _run) = app();
        let mut pixels = pixels(ProtocolType::Sixel);
        let area = Pixels::place(&app).unwrap();
        let draw = |app: &App, pixels: &mut Pixels| {
            let mut cells = Cells::empty(Rect::new(0, 0, 120, 40));
            for place in area.positions() {
                cells[place].set_symbol("#");
            }
            pixels.draw(app, &mut cells);
            cells
        };
        draw(&app, &mut pixels);
        let cells = draw(&app, &mut pixels);
        let all: Vec<&str> = area.positions().map(|place| cells[place].symbol()).collect();
        assert!(all[0].contains("\x1bP") && all[0].contains("\x1b\\"), "{:.60}", all[0]);
        assert!(!all.contains(&"#"));
        app.arena.pixels = false;
        let cells = draw(&app, &mut pixels);
        assert!(area.positions().all(|place| cells[place].symbol() == "#"), "cells again");
    }

    #[rstest]
    fn a_picture_comes_out_as_it_went_in() {
        let mut picture = Pixmap::new(300, 200).unwrap();
        for (at, pixel) in picture.data_mut().chunks_mut(4).enumerate() {
            pixel.copy_from_slice(&[(at % 251) as u8, (at % 83) as u8, (at / 300) as u8, 255]);
        }
        let told = placed(&picture, Rect::new(4, 2, 30, 10));
        assert!(told.starts_with("\x1b7\x1b[3;5H\x1b_Ga=T,f=32,o=z,s=300,v=200,"), "{:.90}", told);
        assert!(told.ends_with("\x1b\\\x1b8"));
        let chunks: Vec<&str> = told.split("\x1b_G").skip(1).collect();
        assert!(chunks.len() > 1 && chunks[..chunks.len() - 1].iter().all(|c| c.contains("m=1;")));
        assert!(chunks.last().unwrap().contains("m=0;"));
        let packed: String = chunks
            .iter()
            .map(|c| c.split(';').nth(1).unwrap().split('\x1b').next().unwrap())
            .collect();
        let bytes = STANDARD.decode_to_vec(packed.as_bytes()).unwrap();
        let pixels = miniz_oxide::inflate::decompress_to_vec_zlib(&bytes).unwrap();
        assert!(pixels == picture.data(), "the same pixels");
    }
}
