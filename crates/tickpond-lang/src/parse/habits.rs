//! Words that people bring along from elsewhere, and what they are here.

/// What a word stands for here: the word to write in its place, if one word does, and the next thing to do.
pub(crate) struct Habit {
    /// The word to write instead.
    pub word: Option<&'static str>,
    /// The next thing to do.
    pub help: &'static str,
}

type Row = (&'static [&'static str], Option<&'static str>, &'static str);

const STATEMENTS: &[Row] = &[
    (
        &["kill", "destroy", "remove", "delete", "despawn", "die", "free"],
        Some("end"),
        "an entity ends by `end`",
    ),
    (&["hurt", "hit", "harm"], Some("damage"), "write `damage … by …`"),
    (&["create", "make", "new", "instantiate"], Some("spawn"), "a birth is asked for by `spawn`"),
    (&["sleep", "delay", "pause"], Some("wait"), "write `wait 1 s`"),
    (&["print", "log", "echo"], Some("say"), "write `say \"…\"`"),
    (&["emit", "signal", "broadcast", "notify", "call"], Some("send"), "write `send MESSAGE to …`"),
    (&["enable"], Some("activate"), "write `activate …`"),
    (&["disable"], Some("deactivate"), "write `deactivate …`"),
    (&["rotate"], None, "write `turn by 90 deg`, or set `spin` for a steady turn"),
    (
        &["move", "walk", "go"],
        None,
        "set `speed` or `vel` once: it moves on by itself; `pos += …` is a jump",
    ),
    (
        &["set", "var"],
        None,
        "write the name alone: `speed = 3 u/s`; variables are declared in `vars { … }`",
    ),
    (
        &["while", "until"],
        None,
        "write `wait until …`, or `when …` as a handler of its own; `repeat { … wait 1 s }` goes on for ever",
    ),
    (
        &["for", "foreach", "loop"],
        None,
        "write `repeat 3 times as i { … }`, or `each midge as m { … }`",
    ),
    (
        &["return", "break", "continue", "stop", "exit"],
        None,
        "a handler ends with its last statement: put the rest under an `if`",
    ),
    (&["else"], None, "`else` stands right behind the `}` of an `if`"),
    (
        &["every", "after", "on", "when"],
        None,
        "a handler stands in the kind, not in another handler; here `wait 1 s` waits",
    ),
];

const EVENTS: &[Row] = &[
    (
        &["spawn", "spawned", "create", "created", "start", "init", "begin", "born", "load"],
        Some("birth"),
        "write `on birth { … }`",
    ),
    (
        &[
            "death",
            "die",
            "dead",
            "destroy",
            "destroyed",
            "remove",
            "removed",
            "kill",
            "killed",
            "despawn",
        ],
        Some("end"),
        "write `on end { … }`, or `on down` for a health of 0",
    ),
    (
        &["collide", "collision", "hit", "overlap", "bump", "contact", "trigger"],
        Some("touch"),
        "write `on touch midge as m { … }`",
    ),
    (&["damage", "damaged", "heal"], Some("hurt"), "write `on hurt { … }`"),
    (&["update", "frame", "step", "tick", "loop"], None, "write `every tick { … }` without `on`"),
    (
        &["timer", "interval", "timeout"],
        None,
        "write `after 1 s { … }` or `every 1 s { … }` without `on`",
    ),
    (
        &["key", "keypress", "keydown", "click", "input"],
        None,
        "declare `input fire = key space`, and write `on press fire { … }`",
    ),
    (&["outside", "offscreen", "exit"], None, "write `on leave arena { … }`"),
    (&["message", "receive", "event"], None, "write the message's name: `on flee { … }`"),
];

const MEMBERS: &[Row] = &[
    (&["health"], None, "write `health 3`, without `=`"),
    (
        &["speed", "vel", "velocity", "heading", "spin", "position", "pos"],
        None,
        "say it at the birth: `place … , speed 3 u/s`, or in `on birth { speed = 3 u/s }`",
    ),
    (&["color", "colour", "glyph", "sprite", "icon", "symbol"], None, "write `look \"m\" amber`"),
    (
        &[
            "circle", "box", "radius", "size", "shape", "collider", "hitbox", "sensor", "solid",
            "bounce", "weight",
        ],
        None,
        "it belongs to the body: `body circle 1 u, sensor`",
    ),
    (
        &["var", "let", "variable", "int", "float", "bool", "number"],
        None,
        "variables are declared in `vars { bites = 0 }`",
    ),
    (&["tags"], Some("tag"), "write `tag insect`"),
    (
        &["state"],
        Some("states"),
        "write `states { idle, chase }`, and handlers of one in `in state chase { … }`",
    ),
    (
        &["use", "with", "extends", "include", "mixin"],
        Some("uses"),
        "a behaviour is taken in by `uses blink`",
    ),
];

const UNITS: &[(&[&str], &str)] = &[
    (&["second", "seconds", "sec", "secs"], "s"),
    (&["millisecond", "milliseconds", "msec", "msecs"], "ms"),
    (&["minute", "minutes", "mins"], "min"),
    (&["degree", "degrees", "degs"], "deg"),
    (&["unit", "units"], "u"),
    (&["tick"], "ticks"),
    (&["percent"], "%"),
];

fn find(rows: &'static [Row], word: &str) -> Option<Habit> {
    let (_, word, help) = rows.iter().find(|(words, ..)| words.contains(&word))?;
    Some(Habit { word: *word, help })
}

/// What a word means that begins no statement.
pub(crate) fn statement(word: &str) -> Option<Habit> {
    find(STATEMENTS, word)
}

/// What a word means that is no event.
pub(crate) fn event(word: &str) -> Option<Habit> {
    find(EVENTS, word)
}

/// What a word means that begins no line of a kind.
pub(crate) fn member(word: &str) -> Option<Habit> {
    find(MEMBERS, word)
}

/// The unit that a word stands for.
pub(crate) fn unit(word: &str) -> Option<&'static str> {
    let (_, unit) = UNITS.iter().find(|(words, _)| words.contains(&word))?;
    Some(unit)
}
