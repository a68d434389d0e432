//! Where everything stands: one pure function that drawing, the pointer and scrolling all use.

use ratatui::layout::Rect;

use super::keys::Place;

/// Smallest screen that can be used.
pub const SMALLEST: (u16, u16) = (50, 14);

/// The bands' areas, heads included; those not shown are empty.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Areas {
    pub script: Rect,
    pub arena: Rect,
    pub strip: Rect,
    pub drawer: Rect,
    pub status: Rect,
    /// The guide through the pond; empty without one.
    pub guide: Rect,
}

/// The layout of a screen; `None` if it is too small.
pub fn layout(screen: Rect, place: Place, zoomed: bool) -> Option<Areas> {
    if screen.width < SMALLEST.0 || screen.height < SMALLEST.1 {
        return None;
    }
    let status = Rect { y: screen.bottom() - 1, height: 1, ..screen };
    let mut areas = Areas { status, ..Areas::default() };
    let room = Rect { height: screen.height - 1, ..screen };
    if zoomed {
        *area_of(&mut areas, place) = room;
        return Some(areas);
    }
    let wide = screen.width >= 110 && screen.height >= 30;
    let strip_height = if screen.height >= 40 {
        9
    } else if screen.height >= 30 {
        7
    } else {
        6
    };
    if !wide {
        // One band at a time beside the time strip.
        let band = Rect { height: room.height - strip_height, ..room };
        areas.strip = Rect { y: band.bottom(), height: strip_height, ..room };
        *area_of(&mut areas, place) = band;
        return Some(areas);
    }
    let drawer_height = (room.height * 3 / 10).max(9);
    let top_height = room.height - strip_height - drawer_height;
    let script_width = room.width / 2;
    areas.script = Rect { width: script_width, height: top_height, ..room };
    areas.arena = Rect {
        x: room.x + script_width,
        width: room.width - script_width,
        height: top_height,
        ..room
    };
    areas.strip = Rect { y: room.y + top_height, height: strip_height, ..room };
    areas.drawer = Rect { y: areas.strip.bottom(), height: drawer_height, ..room };
    Some(areas)
}

fn area_of(areas: &mut Areas, place: Place) -> &mut Rect {
    match place {
        Place::Script => &mut areas.script,
        Place::Arena => &mut areas.arena,
        Place::Drawer => &mut areas.drawer,
    }
}

/// A band without its head line.
pub fn body(area: Rect) -> Rect {
    Rect { y: area.y + 1.min(area.height), height: area.height.saturating_sub(1), ..area }
}

/// The part of the time strip that holds its columns: without the scale at its left.
pub fn strip_columns(strip: Rect) -> Rect {
    let body = body(strip);
    let scale = 8.min(body.width);
    Rect { x: body.x + scale, width: body.width - scale, ..body }
}

/// The body of the drawer: nothing in it touches the left edge.
pub fn drawer_body(drawer: Rect) -> Rect {
    let body = body(drawer);
    let margin = 1.min(body.width);
    Rect { x: body.x + margin, width: body.width - margin, ..body }
}

/// The drawer's list and, where there is room, the story of the selected entity. Where there is not much
/// of it, the list has all of it as long as no one is selected.
pub fn drawer_parts(drawer: Rect, selected: bool) -> (Rect, Rect) {
    let body = drawer_body(drawer);
    if body.width < 75 || body.width < 109 && !selected {
        return (body, Rect::default());
    }
    let story = (body.width * 2 / 5).min(70);
    let list = Rect { width: body.width - story - 1, ..body };
    (list, Rect { x: list.right() + 1, width: story, ..body })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(160, 48, false)]
    #[case(160, 48, true)]
    #[case(110, 30, false)]
    #[case(80, 24, false)]
    #[case(50, 14, false)]
    fn bands_fill_the_screen_and_do_not_overlap(
        #[case] w: u16,
        #[case] h: u16,
        #[case] zoomed: bool,
    ) {
        for place in [Place::Script, Place::Arena, Place::Drawer] {
            let areas = layout(Rect::new(0, 0, w, h), place, zoomed).unwrap();
            let all = [areas.script, areas.arena, areas.strip, areas.drawer, areas.status];
            let cells: u32 = all.iter().map(|a| a.area()).sum();
            assert_eq!(cells, u32::from(w) * u32::from(h));
            for (i, a) in all.iter().enumerate() {
                assert!(all[i + 1..].iter().all(|b| a.intersection(*b).is_empty()));
            }
        }
    }

    #[rstest]
    #[case::wide(160, false, true)]
    #[case::narrow_with_one_selected(80, true, true)]
    #[case::narrow(80, false, false)]
    #[case::too_narrow(70, true, false)]
    fn a_story_that_is_not_there_takes_no_room_where_there_is_little(
        #[case] width: u16,
        #[case] selected: bool,
        #[case] has_room: bool,
    ) {
        let drawer = Rect::new(0, 10, width, 12);
        let (list, story) = drawer_parts(drawer, selected);
        assert_eq!(!story.is_empty(), has_room);
        assert_eq!(list.width == width - 1, !has_room);
        assert!(list.intersection(story).is_empty());
    }

    #[rstest]
    fn a_tiny_screen_has_no_layout() {
        assert_eq!(layout(Rect::new(0, 0, 20, 5), Place::Script, false), None);
    }
}
