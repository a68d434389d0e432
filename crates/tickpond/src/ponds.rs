//! The ponds that are part of the program: the demo, and the gallery with a pond for each idea.

/// A pond that is part of the program.
pub struct Shipped {
    /// The name of its file, without its ending: `02_rain`.
    pub file: &'static str,
    /// Its text.
    pub text: &'static str,
}

macro_rules! gallery {
    ($($file:literal)*) => {
        /// The demo, and the gallery in its order.
        pub const SHIPPED: &[Shipped] = &[
            Shipped { file: "dusk", text: include_str!("../ponds/dusk.pond") },
            $(Shipped {
                file: $file,
                text: include_str!(concat!("../ponds/gallery/", $file, ".pond")),
            },)*
        ];
    };
}

gallery! {
    "01_first_frog"
    "02_rain"
    "03_pond_shot"
    "04_who_and_which"
    "05_where_things_appear"
    "06_out_of_sight"
    "07_waves"
    "08_population"
    "09_thinning"
    "10_motion"
    "11_edges_and_lines"
    "12_solid_pile"
    "13_touch"
    "14_hurt_and_health"
    "15_impact_and_pieces"
    "16_rays"
    "17_blast"
    "18_states"
    "19_behaviors"
    "20_messages"
    "21_rest_and_wake"
    "22_carried"
    "23_what_ended_it"
    "24_order"
    "25_routines"
    "26_when"
    "27_pointer"
    "28_muted"
    "29_guards_hold"
    "30_swarm"
}

/// The guided start.
pub const LESSON: &Shipped =
    &Shipped { file: "first_steps", text: include_str!("../ponds/lessons/first_steps.pond") };

/// What `new` writes.
pub const STARTER: &str = include_str!("../assets/starter.pond");

impl Shipped {
    /// Its name without the number of its place in the gallery: `rain`.
    pub fn name(&self) -> &'static str {
        self.file.trim_start_matches(|c: char| c.is_ascii_digit() || c == '_')
    }

    /// What it is about: the first sentence of the comment it begins with.
    pub fn idea(&self) -> String {
        let lines = self.text.lines().take_while(|line| line.starts_with("//"));
        let words: Vec<&str> = lines.map(|line| line.trim_start_matches('/').trim()).collect();
        let words = words.join(" ");
        match words.split_once(". ") {
            Some((first, _)) => format!("{first}."),
            None => words,
        }
    }
}

/// The shipped pond of this name, with the number of its place or without, or of this number alone.
pub fn shipped(name: &str) -> Option<&'static Shipped> {
    let is_number = !name.is_empty() && name.chars().all(|c| c.is_ascii_digit());
    SHIPPED.iter().chain([LESSON]).find(|pond| {
        let number = pond.file.split('_').next().and_then(|digits| digits.parse::<u32>().ok());
        pond.file == name
            || pond.name() == name
            || is_number && number.is_some() && number == name.parse().ok()
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn every_pond_of_the_gallery_is_part_of_the_program() {
        let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../ponds/gallery");
        let mut files: Vec<String> = std::fs::read_dir(folder)
            .unwrap()
            .map(|entry| entry.unwrap().path().file_stem().unwrap().to_string_lossy().into_owned())
            .collect();
        files.sort();
        let known: Vec<&str> = SHIPPED.iter().skip(1).map(|pond| pond.file).collect();
        assert_eq!(known, files);
    }

    #[rstest]
    #[case("dusk", Some("dusk"))]
    #[case("02_rain", Some("02_rain"))]
    #[case("rain", Some("02_rain"))]
    #[case("2", Some("02_rain"))]
    #[case("02", Some("02_rain"))]
    #[case("", None)]
    #[case("0", None)]
    #[case("2_rain", None)]
    #[case("99", None)]
    fn a_pond_is_found_by_name_or_number(#[case] name: &str, #[case] file: Option<&str>) {
        assert_eq!(shipped(name).map(|pond| pond.file), file);
    }

    #[rstest]
    fn each_has_a_name_of_its_own_and_an_idea_on_one_line() {
        let mut names: Vec<&str> = SHIPPED.iter().map(Shipped::name).collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), SHIPPED.len());
        for pond in SHIPPED {
            let idea = pond.idea();
            assert!(idea.len() > 10 && !idea.contains('\n'), "{}: {idea}", pond.file);
        }
    }
}
