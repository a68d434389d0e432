//! Pictures read back: areas, places, brightness, names.

use super::*;
use ratatui::layout::Rect;
use rstest::rstest;
use tickpond_lab::{Run, RunOptions, Timeline};

use crate::workbench::arena::looks::Looks;
use crate::workbench::arena::{Camera, Layers, View};
use crate::workbench::befell::Befell;
use crate::workbench::settings::Theme;
use crate::workbench::snapshot::Snapshot;

const CELL: (u16, u16) = (8, 16);

fn picture(text: &str, camera: &Camera) -> (Pixmap, View) {
    let (picture, view, _) = picture_with(text, camera, Layers::default());
    (picture, view)
}

fn picture_with(text: &str, camera: &Camera, layers: Layers) -> (Pixmap, View, Vec<(f64, f64)>) {
    let program = tickpond_lang::compile(text);
    let program = program.program.unwrap_or_else(|| panic!("{:?}", program.diagnostics));
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(2);
    let snapshot = Snapshot::of(&run, 10, None, &mut Befell::default());
    let cast = run.cast().clone();
    let view = View::through(camera, &cast.arena, Rect::new(4, 3, 80, 20));
    let looks = Looks { camera, layers, focus: None, cross: None, measured_from: None };
    let shown = Shown { scene: &snapshot.scene, cast: &cast, view: &view, looks: &looks };
    let palette = Palette::full(Theme::Dark);
    let places = snapshot.scene.entities.iter().map(|seen| seen.at).collect();
    (raster(&shown, CELL, &palette).unwrap(), view, places)
}

/// How many pixels are redder than blue and green together.
fn red(picture: &Pixmap) -> usize {
    let is_red = |p: &&tiny_skia::PremultipliedColorU8| {
        u16::from(p.red()) > 110
            && u16::from(p.red()) > u16::from(p.green()) + u16::from(p.blue()) / 2
    };
    picture.pixels().iter().filter(is_red).count()
}

#[rstest]
#[case::circle("body circle 6 u, sensor", std::f64::consts::PI * 36.0)]
#[case::turned("body box 20 u x 6 u, sensor", 120.0)]
fn a_body_has_as_many_pixels_as_it_is_large(#[case] body: &str, #[case] wanted: f64) {
    let text = format!(
        "pond \"t\" {{ arena 80 x 40 }}\nkind lily {{ look \"o\" rose; {body}\n on birth {{ heading = 30 deg }} }}\nplace lily at (40, 20)\n"
    );
    let (picture, view) = picture(&text, &Camera::default());
    assert_eq!((picture.width(), picture.height()), (640, 320));
    // A u is a cell wide: eight pixels, and as many high.
    let pixels = view.cells_per_u() * f64::from(CELL.0);
    let area = red(&picture) as f64 / (pixels * pixels);
    assert!((area - wanted).abs() < wanted * 0.05, "{area:.1} for {wanted:.1}");
}

#[rstest]
fn one_stands_where_it_is_from_far_and_near() {
    let text = "pond \"t\" { arena 80 x 40 }\nkind midge { look \"m\" rose; body circle 1 u, sensor }\nplace midge at (30, 10)\n";
    for nearer in [1.0, 4.0] {
        let camera = Camera { centre: Some((32.0, 12.0)), nearer, follows: false };
        let (picture, view) = picture(text, &camera);
        let (mut sum, mut count) = ((0.0, 0.0), 0.0);
        for (at, p) in picture.pixels().iter().enumerate() {
            if p.red() > 120 && p.red() > p.green() + 40 {
                sum.0 += (at % picture.width() as usize) as f64 + 0.5;
                sum.1 += (at / picture.width() as usize) as f64 + 0.5;
                count += 1.0;
            }
        }
        let cells = (sum.0 / count / 8.0 + 4.0, sum.1 / count / 16.0 + 3.0);
        let (x, y) = view.unplace_at(cells.0, cells.1);
        assert!((x - 30.0).abs() < 0.2 && (y - 10.0).abs() < 0.2, "({x}, {y}) at {nearer}");
    }
}

/// The colours of a cell's pixels, the most frequent first.
fn colours(picture: &Pixmap, cell: (u32, u32)) -> Vec<((u8, u8, u8), usize)> {
    let mut found: Vec<((u8, u8, u8), usize)> = Vec::new();
    for y in 0..u32::from(CELL.1) {
        for x in 0..u32::from(CELL.0) {
            let (x, y) = (cell.0 * u32::from(CELL.0) + x, cell.1 * u32::from(CELL.1) + y);
            let pixel = picture.pixel(x, y).unwrap();
            let colour = (pixel.red(), pixel.green(), pixel.blue());
            match found.iter_mut().find(|known| known.0 == colour) {
                Some(known) => known.1 += 1,
                None => found.push((colour, 1)),
            }
        }
    }
    found.sort_by_key(|known| std::cmp::Reverse(known.1));
    found
}

#[rstest]
fn a_crowd_is_as_bright_as_there_are_many_in_a_cell_and_everyone_is_a_point() {
    // One u is a cell wide and half a cell high: cells of 1, 2, 5 and 20, and some alone far off.
    let mut text = String::from(
        "pond \"t\" { arena 80 x 40 }\nkind midge { look \"m\" rose; body circle 0.3 u, sensor }\n",
    );
    let groups = [(10, 1), (20, 2), (30, 5), (40, 20), (50, 20)];
    for (column, count) in groups {
        for at in 0..count {
            let (x, y) = (f64::from(at % 4) * 0.25 + 0.12, f64::from(at / 4) * 0.4 + 0.2);
            text += &format!("place midge at ({}, {})\n", f64::from(column) + x, 19.99 - y);
        }
    }
    let layers = Layers { trails: false, marks: false, water: false, ..Layers::default() };
    let (picture, _, places) = picture_with(&text, &Camera::default(), layers);
    assert_eq!(places.len(), 48, "they do not move");
    let rose = Palette::full(Theme::Dark).kind_rgb(Some("rose"), 0);
    let grounds = groups.map(|(column, count)| {
        let found = colours(&picture, (column as u32, 10));
        let dots = found.iter().find(|known| known.0 == rose).map_or(0, |known| known.1);
        // A point has two pixels each way.
        assert_eq!(dots, count as usize * 4, "points in the cell of {count}");
        found.iter().find(|known| known.0 != rose).unwrap().0.0
    });
    let [one, two, five, twenty, other] = grounds;
    assert!(one < two && two < five && five < twenty, "{grounds:?}");
    assert_eq!(twenty, other);
}

/// Where two pictures differ: left, top, right, bottom, in pixels.
fn difference(a: &Pixmap, b: &Pixmap) -> Option<[u32; 4]> {
    let width = a.width();
    let pairs = a.pixels().iter().zip(b.pixels()).enumerate();
    let places = pairs.filter(|(_, (a, b))| a != b).map(|(at, _)| {
        let at = at as u32;
        (at % width, at / width)
    });
    places.fold(None, |known, (x, y)| {
        let [left, top, right, bottom] = known.unwrap_or([x, y, x, y]);
        Some([left.min(x), top.min(y), right.max(x), bottom.max(y)])
    })
}

#[rstest]
#[case::a_zone('n', "zone shallows = box (10, 10) size 30 x 20", [80.0, 80.0, 320.0, 110.0])]
#[case::a_spot('s', "spots reeds { (40, 20) }", [310.0, 148.0, 370.0, 172.0])]
#[case::a_spot_s_name('n', "spots reeds { (40, 20), (60, 10) }", [326.0, 148.0, 370.0, 172.0])]
#[case::a_zone_s_ground('z', "zone shallows = box (10, 10) size 30 x 20", [78.0, 78.0, 322.0, 242.0])]
fn a_layer_is_drawn_where_it_belongs(
    #[case] layer: char,
    #[case] item: &str,
    #[case] within: [f64; 4],
) {
    let text = format!(
        "pond \"t\" {{ arena 80 x 40 }}\n{item}\nkind frog {{ }}\nplace frog at (70, 35)\n"
    );
    let mut without = Layers::default();
    without.switch(layer);
    let (with, ..) = picture_with(&text, &Camera::default(), Layers::default());
    let (without, ..) = picture_with(&text, &Camera::default(), without);
    let found = difference(&with, &without).expect("it is drawn").map(f64::from);
    assert!(found[0] >= within[0] && found[1] >= within[1], "{found:?} in {within:?}");
    assert!(found[2] <= within[2] && found[3] <= within[3], "{found:?} in {within:?}");
}

#[rstest]
fn a_dot_beside_a_body_would_say_no_more_than_the_body() {
    let text = "pond \"t\" { arena 80 x 40 }\nkind midge { look \"•\"; body circle 0.8 u, sensor }\nplace midge at (40, 20)\n";
    let quiet = Layers { trails: false, marks: false, ..Layers::default() };
    let (with, ..) = picture_with(text, &Camera::default(), quiet);
    let (without, ..) = picture_with(text, &Camera::default(), Layers { glyphs: false, ..quiet });
    assert_eq!(difference(&with, &without), None);
    // Where there are no bodies the sign is all there is.
    let bare = Layers { bodies: false, ..quiet };
    let (with, ..) = picture_with(text, &Camera::default(), bare);
    let (without, ..) = picture_with(text, &Camera::default(), Layers { glyphs: false, ..bare });
    assert!(difference(&with, &without).is_some());
}

#[rstest]
#[case::inside("body circle 4 u, sensor", 0.0)]
#[case::in_its_place("body circle 0.2 u, sensor", 0.0)]
#[case::beside("body circle 0.8 u, sensor", 1.0)]
fn a_sign_stands_on_its_body_if_there_is_room_else_beside_it(
    #[case] body: &str,
    #[case] aside: f64,
) {
    let text = format!(
        "pond \"t\" {{ arena 80 x 40 }}\nkind midge {{ look \"m\"; {body} }}\nplace midge at (40, 20)\n"
    );
    let quiet = Layers { trails: false, marks: false, ..Layers::default() };
    let (with, ..) = picture_with(&text, &Camera::default(), quiet);
    let (without, ..) = picture_with(&text, &Camera::default(), Layers { glyphs: false, ..quiet });
    let found = difference(&with, &without).expect("it is drawn").map(f64::from);
    let middle = ((found[0] + found[2] + 1.0) / 2.0, (found[1] + found[3] + 1.0) / 2.0);
    // A u is eight pixels; the sign is 12 high at most.
    let (right, up) = (middle.0 - 320.0, 160.0 - middle.1);
    if aside == 0.0 {
        assert!(right.abs() <= 1.0 && up.abs() <= 1.0, "{middle:?}");
    } else {
        assert!(right > 6.0 && up > 6.0 && right < 20.0 && up < 20.0, "{middle:?}");
    }
}

/// The picture as signs, one for each half of a cell: the brighter, the more of it there is to a sign.
fn sketch(picture: &Pixmap) -> String {
    const SIGNS: [char; 10] = [' ', '.', ':', '-', '=', '+', '*', '#', '%', '@'];
    let side = u32::from(CELL.0);
    let sign = |x: u32, y: u32| {
        let all = (0..side * side).filter_map(|at| picture.pixel(x + at % side, y + at / side));
        let sum: u32 = all
            .map(|p| u32::from(p.red()) * 2 + u32::from(p.green()) * 5 + u32::from(p.blue()))
            .sum();
        SIGNS[(sum / (side * side) / 8 / 22).min(9) as usize]
    };
    let row = |y| (0..picture.width()).step_by(side as usize).map(|x| sign(x, y)).collect();
    let rows = (0..picture.height()).step_by(side as usize).map(row);
    rows.map(|row: String| row.trim_end().to_string()).collect::<Vec<_>>().join("\n")
}

#[rstest]
fn a_pond_with_all_there_is_to_draw() {
    let text = "pond \"t\" { arena 80 x 40\n edges wrap left right, wall bottom, open }\n\
        zone shallows = box (4, 4) size 24 x 10\nzone eddy = circle (66, 10) radius 7 u\n\
        spots reeds { (6, 36), (74, 36) }\n\
        kind lily { look \"o\" rose; body box 12 u x 4 u, sensor; on birth { heading = 30 deg } }\n\
        kind frog { look \"@\" lime; body circle 3 u, sensor; on birth { speed = 1 u/s } }\n\
        kind midge { look \"m\" teal; body circle 0.3 u, sensor }\n\
        spawner bed { makes midge; every 9 s }\nplace bed at (40, 36)\n\
        place lily at (30, 26)\nplace frog at (52, 22)\n";
    let midges: String = (0..60)
        .map(|at| format!("place midge at (6{}.{}, 3{}.5)\n", at % 7, at % 9, at % 3))
        .collect();
    let (picture, ..) = picture(&format!("{text}{midges}"), &Camera::default());
    insta::assert_snapshot!(sketch(&picture));
}
