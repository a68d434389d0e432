//! The arena as a picture, where the terminal can draw real pixels: kitty's graphics or sixels. Cells are what every
//! terminal has; the picture lies over them, and nothing is lost without it.

use std::fmt::Write;
use std::time::{Duration, Instant};

use base64_simd::STANDARD;
use image::{DynamicImage, RgbaImage};
use miniz_oxide::deflate::compress_to_vec_zlib;
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::widgets::Widget;
use ratatui_image::picker::{Picker, ProtocolType};
use ratatui_image::protocol::Protocol;
use ratatui_image::{Image, Resize};
use tiny_skia::Pixmap;

use super::app::App;
use super::arena::raster::{Shown, raster};
use super::arena::{Camera, View, parts};
use super::layout::body;
use super::palette::Palette;
use super::settings::Theme;

/// Shortest time from one picture to the next.
const BETWEEN: Duration = Duration::from_millis(80);
/// The number of the picture among the terminal's.
const NUMBER: u32 = 7341;
/// Most signs of a picture in one escape sequence.
const CHUNK: usize = 4096;

/// What was drawn last: while it is the same, it is not drawn again.
#[derive(PartialEq)]
struct Drawn {
    snapshot: *const super::snapshot::Snapshot,
    camera: Camera,
    area: Rect,
    theme: Theme,
}

/// The terminal's way to show a picture, and the one that is shown.
#[derive(Default)]
pub struct Pixels {
    picker: Option<Picker>,
    drawn: Option<(Drawn, Instant)>,
    sixels: Option<Protocol>,
    /// Whether a picture lies over the cells.
    placed: bool,
}

impl Pixels {
    /// Finds out what the terminal can do. It is asked, and answers within a moment or not at all.
    ///
    /// # Errors
    /// Why there will be no picture.
    pub fn begin(&mut self) -> Result<(), String> {
        let picker = Picker::from_query_stdio().map_err(|error| error.to_string())?;
        match picker.protocol_type() {
            ProtocolType::Kitty | ProtocolType::Sixel => self.picker = Some(picker),
            _ => return Err("it has neither kitty's graphics nor sixels".into()),
        }
        Ok(())
    }

    /// Whether a picture can be shown.
    pub fn is_ready(&self) -> bool {
        self.picker.is_some()
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
        let cast = app.snapshot.cast.as_ref()?;
        let now = Drawn {
            snapshot: std::sync::Arc::as_ptr(&app.snapshot),
            camera: app.arena.camera,
            area,
            theme: app.settings.theme,
        };
        if let Some((drawn, when)) = &self.drawn
            && (*drawn == now || self.placed && drawn.area == area && when.elapsed() < BETWEEN)
        {
            return None;
        }
        let view = View::through(&app.arena.camera, &cast.arena, area);
        let shown = Shown {
            scene: &app.snapshot.scene,
            cast,
            view: &view,
            focus: app.seen_focus(),
            trails: app.arena.layers.trails,
        };
        let picture = raster(&shown, cell, &Palette::full(app.settings.theme))?;
        self.drawn = Some((now, Instant::now()));
        Some(picture)
    }

    /// Sixels are a part of the cells' own stream: they are put in with them.
    pub fn draw(&mut self, app: &App, cells: &mut Cells) {
        let Some((area, picker)) = Self::place(app).zip(self.picker.clone()) else { return };
        if picker.protocol_type() != ProtocolType::Sixel {
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
    use rstest::rstest;

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
