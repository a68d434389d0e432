//! The grammar that is drawn: for each construct a line or more. Every pond declares the same names, so that any line can stand
//! in any of its kinds; which lines do is chance.

use crate::{Chance, Item, Oddities};

/// The kinds that have all an entity can have: a body, health, variables, states, mounts.
const KINDS: [&str; 3] = ["midge", "frog", "drop"];

/// Lines of the header, of each group one or none.
const HEADER: &[&[&str]] = &[
    &[
        "edges open, margin 3 u",
        "edges wrap",
        "edges wall bottom, open, margin 4 u",
        "edges wall, bounce 30 %, friction 20 %",
        "edges wrap left, wrap right, open",
    ],
    &["rate 60 per s", "rate 30 per s", "rate 1200 per min"],
    &["gravity (0, -20) u/s2"],
    &["lasts 2 s", "lasts 90 ticks"],
];

/// What the player sees; births and values may speak of it.
const VIEWS: &[&str] = &["view 40 x 30 follows frog at (50, 50)", "view 20 x 20"];

const ARENA: &[&str] = &[
    "arena 100 x 100",
    "arena 100 x 100, origin bottom-left, y up",
    "arena 100 x 100, origin top-left, y down",
    "arena 100 x 100, origin bottom-right",
    "arena 100 x 100, origin top-right",
    "arena 100 x 100, origin center",
    "arena 100 x 100, origin middle",
];

const LIMITS: &str = "limit 300 entities, 500 births per tick, 400 births waiting, 8 rounds, 2_000 steps, \
    20_000 steps per tick, 3_000 messages per tick, 4_000 requests per tick, 100_000 text per tick, 1_000_000 looks per tick, 900 touches";

const LIMITS_NEAR: &[&str] = &[
    "limit 40 entities",
    "limit 300 entities, 12 births per tick",
    "limit 300 entities, 20 births waiting",
    "limit 300 entities, 2 rounds",
    "limit 300 entities, 12 steps",
    "limit 300 entities, 300 steps per tick",
    "limit 300 entities, 60 messages per tick",
    "limit 300 entities, 60 requests per tick",
    "limit 300 entities, 400 text per tick",
    "limit 300 entities, 800 looks per tick",
    "limit 300 entities, 6 touches",
];

/// What every pond declares.
const DECLARED: &[&str] = &[
    "knob drift = 6 u/s in 1..20 \"how fast\"",
    "knob gap = 0.4 s in 0.1..2",
    "knob far = 12 u in 1..50",
    "knob swing = 30 deg in 0..180",
    "knob push_by = 4 u/s2",
    "knob whirl = 90 deg/s",
    "knob often = 3 per s",
    "knob share = 30 %",
    "knob many = 3 in 1..9",
    "spots reeds { (12, 80), (20, 84) facing 270 deg, (31, 82) }",
    "spots shore { (5, 5), (90, 10) }",
    "zone weir = box (80, 0) size 10 x 30",
    "zone eddy = circle (40, 40) radius 9 u",
    "input fire = key f",
    "input croak = key space",
    "input hop = key enter",
    "input west = key left",
    "input east = key right",
    "input north = key up",
    "input south = key down",
    "input aim = pointer",
    "message warn(level: number, near: place)",
    "message tell(who: entity, what: kind, much: count, how: truth)",
    "message gauge(a: time, b: length, c: angle, d: speed)",
    "message flow(a: acceleration, b: spin, c: rate, d: velocity)",
    "message wake",
    "message lost",
];

/// Members of a kind; of each group one or none.
const MEMBERS: &[&[&str]] = &[
    &[
        "look \"*\" teal",
        "look \"o\" amber",
        "look \"x\" rose",
        "look \"v\" blue",
        "look \"w\" violet",
        "look \"z\" lime",
        "look \"s\" sand",
        "look \"g\" grey",
        "look \"h\" white",
        "look \"q\" orange",
        "look \"n\"",
    ],
    &["drifts"],
    &["uses flashes(0.3 s)", "uses flashes"],
    &["uses wanders(2 u)"],
];

const BODIES: &[&str] = &[
    "body circle 1 u, sensor",
    "body circle 2 u",
    "body box 2 u x 1 u, sensor, upright",
    "body circle 0.5 u, sensor, weightless, drag 0.2 per s",
    "body box 1 u x 3 u, sensor, passes drop",
];

const SOLIDS: &[&str] = &[
    "body circle 1 u, solid, bounce 40 %, friction 30 %, weight 2",
    "body box 2 u x 1 u, solid, upright, passes midge or frog",
];

/// What is done in a handler of an entity, and may be done everywhere in one.
const DEEDS: &[&str] = &[
    "n += 1",
    "n -= 1",
    "n = many * 2 - floor(n / 3)",
    "far_off = far + 2 u * 3",
    "lazy = not lazy",
    "home = here",
    "prey = nearest(any)",
    "heading = any angle",
    "heading = direction to (50, 50)",
    "speed = random(1 u/s .. 9 u/s)",
    "vel = (3, -2) u/s",
    "spin = whirl",
    "spin += 0.1 turn/s - 1 rad/s",
    "pos = (50, 50)",
    "turn by swing",
    "turn by random(-0.1 turn .. 1 rad)",
    "turn toward (50, 50) at most 90 deg/s",
    "head toward aim",
    "push self by 3 u/s along 45 deg",
    "push self by (2, 1) u/s",
    "thrust push_by along 0 deg",
    "damage self by 1",
    "damage each drop within 4 u by 1 credit self",
    "heal self by 1",
    "heal maker by 1",
    "say \"{name} at {pos}: {n} {lazy} {far_off} \\{ok\\} \\\"q\\\"\"",
    "send wake to self",
    "send lost to pond",
    "send warn(n, here) to all",
    "send tell(self, midge, 3, true) to maker",
    "send gauge(1 ms * 300, 2 u, 3 deg, drift) to each frog",
    "send flow(push_by, whirl, often, (1, 2) u/s) to each any where n > 2",
    "become lit",
    "become calm for 0.3 s",
    "activate each drop where not active",
    "deactivate self",
    "deactivate each drop within 3 u",
    "detach self",
    "if nearest(frog) as f { attach self to f at back outlives owner }",
    "if nearest(drop) as d { attach d at mouth }",
    "detach each drop",
    "ray from mouth along heading, reach 20 u, hits midge or frog where health > 1 as r { damage r.target by 1; show r for 0.2 s; say \"{r.place} {r.length}\" } else { n = 0 }",
    "ray toward (50, 50), reach far, hits any as r { say \"{r.target} {r.length}\" }",
    "blast at here, radius 6 u, damage 2, push 5 u/s, falloff straight, spares maker, shielded by pod",
    "blast at mouth, radius 3 u, damage 1, falloff square, spares drop",
    "blast at (50, 50), radius 9 u, push 2 u/s, falloff even",
    "if n > 3 and not lazy or health < 2 { n = 0 } else if count(frog where state == lit) > 1 { n = 1 } else { n = 2 }",
    "repeat many times as i { n += i }",
    "repeat 2 times { n += 1 }",
    "each drop within far as d { damage d by 1 }",
    "each insect touching as t { push t by 1 u/s along direction to t }",
    "if random one of frog as f { end f because \"bad luck\" }",
    "if any(midge within 3 u of (50, 50) where health > self.n) { n += 1 }",
    "n = sum(midge.n) + mean(frog.n) + min(drop.n) + max(midge.n)",
    "n = born(midge) + ended(insect by damage because \"bad luck\" credit frog) + peak(midge or frog) + sent(warn) + heard(wake) + unheard(lost)",
    "n = abs(n) + round(2.5) + sqrt(9) + sin(30 deg) + cos(60 deg) + min(1, 2) + max(n, 3)",
    "far_off = distance(here, (1, 1)) + distance to (2, 2) + length((3, 4)) * 1 u",
    "heading = direction((3, 4)) + direction to view",
    "if here is inside weir or inside(eddy) { n = view.x / 1 u + reeds.1.y / 1 u }",
    "if prey is gone { prey = self } else if prey is alive and prey is frog or insect { n = prey.health }",
    "if age > 2 min or age == 3 s +- 20 ms { n = 1 }",
    "if heading != 359 deg +- 2 deg and here == (3, 4) +- 1 { n = 2 }",
    "if n != 3 and n >= 1 and n <= 9 { n = 4 }",
    "if active and not down { n = 5 }",
    "say \"{label} of {maker} with {speed}, {vel}, {heading}, {spin}, {state}\"",
    "let near = far * share\n        if near > 1 u { n = near / 1 u }",
    "n = doubled(n)",
    "scatter(drop, 2)",
    "end self because \"worn out\"",
    "if n > 9 { replace self with 2 drop, keeping velocity, spread 90 deg }",
    "if n > 40 { end maker }",
];

/// Births, in a handler of an entity.
const BIRTHS: &[&str] = &[
    "spawn drop at here",
    "spawn 3 drop at here + (2, 0), spread 360 deg, speed 5 u/s, spaced 0.1 s",
    "spawn drop at mouth, along mouth, push 3 u/s, health 1",
    "spawn drop at reeds each, facing 90 deg { n = 2; lazy = true }",
    "spawn drop at reeds.2, toward (50, 50), vel (1, 2) u/s, label \"kept {n}\"",
    "spawn drop anywhere in weir, not within 3 u of frog, clear of solid",
    "spawn drop anywhere, not within view widened by 5 u, inactive",
    "spawn drop along edge top, facing 270 deg",
    "spawn drop along edge left",
    "spawn drop around here within 5 u, not within 2 u of (50, 50)",
    "spawn drop on ring around here radius 6 u, push (1, 0) u/s",
    "spawn drop at back, attached outlives owner",
    "spawn drop at mouth, attached",
];

/// What may wait, at the end of a handler.
const WAITS: &[&str] = &[
    "wait 0.2 s",
    "wait 1 tick",
    "wait until n > 2",
    "spawn drop at here as d\n        if d is alive { push d by 1 u/s along 0 deg }",
    "repeat 2 times { wait 3 ticks; n += 1 }",
    "repeat { wait 0.5 s; n += 1 }",
];

/// Heads of handlers, each once in a kind.
const HEADS: &[&str] = &[
    "on birth",
    "after 0.8 s",
    "after gap",
    "every 0.4 s",
    "every 0.7 s overlapping",
    "every tick",
    "when n > 3",
    "on part any",
    "on enter weir",
    "on leave eddy",
    "on leave arena",
    "on touch edge",
    "on touch edge bottom",
    "on below y 20 u",
    "on above y 90 u",
    "on left of x 10 u",
    "on right of x 90 u",
    "on press fire",
    "on release croak",
    "while held hop every 0.25 s",
    "on hurt",
    "on down",
    "on becoming lit",
    "on quitting lit",
    "on wake while inactive",
    "on lost",
];

/// Heads that tell of another, and what is done with it.
const MET: &[(&str, &str)] = &[
    ("on touch any but maker as t", "damage t by 1; n += 1"),
    ("on first touch insect where health > 1 as t", "damage t by 2 credit maker"),
    ("while touching frog every 0.3 s as t", "heal t by 1"),
    ("on touch insect or pod as t", "push t by 2 u/s along direction to t"),
    ("on impact over 4 u/s with any as i", "say \"{i.speed} {i.velocity} {i.other}\"; n += 1"),
    ("on warn(level, near) from who", "n = level; home = near; heading = direction to who"),
    ("on tell(who, what, much, how)", "if how { n = much; prey = who; spawn what at here }"),
    ("on gauge(a, b, c, d)", "far_off = b + d * a; turn by c"),
    ("on flow(a, b, c, d)", "thrust a along 0 deg; spin = b; vel = d; n = c * 2 s"),
    ("on end by damage or edge or timer", "say \"over\""),
];

/// What the pond does at the top of the text.
const POND: &[(&str, &str)] = &[
    ("after 1 s", "spawn 4 midge anywhere; ticked += 1"),
    ("every 0.9 s", "each insect where health < 2 as m { heal m by 1 }"),
    ("every tick", "if count(drop) > 90 { each drop as d { end d } }"),
    ("when count(frog) == 0", "spawn frog at reeds"),
    ("on press east", "send wake to each midge"),
    ("on release west", "send lost to all"),
    ("while held north every 0.5 s", "spawn drop along edge right"),
    ("on lost", "say \"somebody is lost\""),
    (
        "on warn(level, near) from who",
        "if level > 2 { spawn drop at near; if who is alive { damage who by 1 } }",
    ),
];

const ROUTINES: &[&str] = &[
    "routine dusk {\n    wait 0.5 s\n    repeat 2 times as i {\n        wave as w { spawn 2 * i midge at reeds, spaced 0.1 s }\n        wait until count(w) == 0\n    }\n}",
    "routine night { repeat { wait 1 s; ticked += 1 } }",
];

const SPAWNERS: &[&str] = &[
    "spawner bed(what: kind of insect = midge, pause: time = 0.5 s) { makes what at reeds, facing 270 deg; every pause, first at once, not within 4 u of frog; 2 at a time; keep at most 9 alive; at most 40 in all; from 0.2 s; until ended(frog) > 3 }",
    "spawner nest { makes frog at here; again 0.5 s after its end }",
    "spawner swarm { makes drop anywhere; keep 6 alive }",
    "spawner once(size: length = 2 u, way: angle = 3 deg, pace: speed = 2 u/s, will: truth = true, at_which: place = (1, 1), some: count = 2, which: kind = drop) { makes drop at (30, 30), speed pace, facing way; some at a time }",
];

const PLACES: &[&str] = &[
    "place bed { pause = 0.3 s }",
    "place nest at (70, 60)",
    "place swarm",
    "place once at (30, 30)",
    "place midge at (30, 30), label \"the first\" { n = 2 }",
    "place frog at (60, 40), health 2",
    "place frog at reeds each",
    "place drop anywhere, not within 5 u of frog, clear of solid",
    "place pod at (50, 20), facing 30 deg",
    "place midge at (31, 30), inactive",
];

const CHECKS: &[&str] = &[
    "watch crowd = count(midge)",
    "watch crowded = crowd * 2 + mean(frog.n)",
    "expect \"few\": always count(drop) <= 300",
    "expect \"never so\": never ended(midge by damage) > 900",
    "expect \"at\": at 1 s, count(pod) >= 0",
    "expect \"by\": by 1.5 s, count(frog) >= 0",
    "expect \"from\": from 0.5 s to 1.5 s, always count(frog) < 300",
    "expect \"on\": from 1 s on, always count(frog) < 300",
    "expect \"last\": in the end always count(frog) < 300",
    "expect \"lives\": each midge lives at most 90 s",
    "expect \"long\": each midge where health > 0 lives at least 0 s",
    "expect \"ends\": each midge ends by timer or edge or damage or script or owner or touch or impact or zone or line or replaced or limit",
    "expect \"hurt\": each midge is hurt at most 900 times",
    "expect \"after\": after midge ends by timer, for 0.2 s, count(frog) >= 0",
    "expect \"within\": after lost heard, within 1 s, count(frog) >= 0",
    "expect \"key\": after press fire, within 0 s .. 0.1 s, count(frog) >= 0",
    "expect \"sent\": after warn sent, within 0.1 s, count(frog) >= 0",
    "expect \"born\": after midge born, within 0.1 s, count(frog) >= 0",
    "expect \"not now\" on tape \"taps\": at 1 s, count(frog) >= 0",
];

const TAPE: &str = "tape \"taps\" played {\n    at 0.3 s tap fire\n    at 0.5 s tap croak, 3 times every 0.2 s\n    from 0.6 s to 0.9 s hold hop\n    at 0.7 s move aim to (40, 20)\n}";

const PARTS: &[&str] = &[
    "behavior flashes(span: time = 0.2 s) {\n    states { plain, bright }\n    vars { times_lit = 0 }\n    on hurt { become bright for span; times_lit += 1 }\n    in state bright { on becoming bright { times_lit += 1 } }\n}",
    "behavior wanders(step: length = 1 u) {\n    every 0.6 s { turn by random(-20 deg .. 20 deg) }\n    when step > 1 u { say \"far\" }\n}",
    "to scatter(what: kind, number: count, apart: length = 2 u) { repeat number times as i { spawn what at (apart * i + 40 u, row(3)) } }",
    "value row(nth: count) = 10 u * nth",
    "value doubled(x: number) = x * 2",
];

/// All items of a pond.
pub(crate) fn items(chance: &mut Chance, odd: &Oddities) -> Vec<Item> {
    let mut items = vec![header(chance, odd), Item::line("vars { ticked = 0 }")];
    items.extend(DECLARED.iter().map(|line| Item::line(*line)));
    items.extend(PARTS.iter().map(|part| Item::line(*part)));
    for kind in KINDS {
        items.push(self::kind(kind, chance, odd));
    }
    items.push(Item::line("kind pod { body box 4 u x 2 u, solid fixed }"));
    if odd.solids {
        items.push(Item::line(
            "kind pebble { body circle 1 u, solid; every 0.5 s { if resting { end self } } }",
        ));
        items.push(Item::line("place pebble at (70, 70)"));
    }
    items.push(Item::line("kind mote { body none; after 1 s { end self } }"));
    items.extend(chance.some(POND, 3).into_iter().map(|(head, does)| {
        let mute = if odd.muted && chance.one_in(4) { "off " } else { "" };
        Item::line(format!("{mute}{head} {{ {does} }}"))
    }));
    items.extend(chance.some(ROUTINES, 2).into_iter().map(Item::line));
    items.extend(SPAWNERS.iter().map(|line| Item::line(*line)));
    let mut places = chance.some(PLACES, PLACES.len());
    places.push("place midge at (50, 50)");
    for place in places {
        let mute = if odd.muted && chance.one_in(5) { "off " } else { "" };
        items.push(Item::line(format!("{mute}{place}")));
    }
    items.push(Item::line(TAPE));
    let checks: Vec<&str> = CHECKS.iter().copied().filter(|_| chance.one_in(3)).collect();
    // One watch reads another.
    let reads = checks.contains(&CHECKS[1]) && !checks.contains(&CHECKS[0]);
    items.extend(reads.then(|| Item::line(CHECKS[0])));
    items.extend(checks.into_iter().map(Item::line));
    if chance.one_in(3) {
        // The order of items means nothing.
        let mut mixed = Vec::with_capacity(items.len());
        while !items.is_empty() {
            mixed.push(items.swap_remove(chance.below(items.len())));
        }
        items = in_order_of_watches(mixed);
    }
    if chance.one_in(4) {
        items.insert(0, Item::line("// meant: nothing\n// A pond by chance."));
    }
    items
}

/// A watch stands before the one that reads it.
fn in_order_of_watches(mut items: Vec<Item>) -> Vec<Item> {
    let at = |items: &[Item], head: &str| items.iter().position(|item| item.head.starts_with(head));
    if let (Some(read), Some(reads)) = (at(&items, "watch crowd"), at(&items, "watch crowded"))
        && read > reads
    {
        items.swap(read, reads);
    }
    items
}

fn header(chance: &mut Chance, odd: &Oddities) -> Item {
    let mut lines = vec![chance.of(ARENA).to_string(), chance.of(VIEWS).to_string()];
    for group in HEADER {
        if chance.one_in(2) {
            let line = chance.of(group);
            // Solids do not go with edges that wrap.
            let fits = !odd.solids || !line.contains("wrap");
            lines.extend(fits.then(|| line.to_string()));
        }
    }
    lines.push(match odd.limits_near {
        true => chance.of(LIMITS_NEAR).to_string(),
        false => LIMITS.to_string(),
    });
    Item::block("pond \"By chance\"", lines)
}

fn kind(name: &str, chance: &mut Chance, odd: &Oddities) -> Item {
    let mut members = vec![
        if name == "drop" { "tag small" } else { "tag insect, small" }.to_string(),
        "health 4".to_string(),
        "vars { n = random(0 .. 3); far_off = 2 u; lazy = false; home = (10, 10); prey: any }"
            .to_string(),
        "states { calm, lit }".to_string(),
        "mount mouth at (1 u, 0.2 u) facing 30 deg".to_string(),
        "mount back at (-1 u, 0 u)".to_string(),
    ];
    let bodies = if odd.solids && chance.one_in(2) { SOLIDS } else { BODIES };
    let body = chance.of(bodies);
    members
        .push(if body.contains(&format!("passes {name}")) { BODIES[0] } else { body }.to_string());
    for group in MEMBERS {
        if chance.one_in(2) {
            members.push(chance.of(group).to_string());
        }
    }
    for head in chance.some(HEADS, 5) {
        members.push(handler(head, name, chance, odd));
    }
    for (head, does) in chance.some(MET, 3) {
        members.push(format!("{head} {{ {does} }}"));
    }
    if chance.one_in(3) {
        let inside: String = chance
            .some(&["every 0.3 s", "on becoming lit", "after 0.5 s"], 2)
            .into_iter()
            .map(|head| format!("{head} {{ {} }}; ", chance.of(DEEDS)))
            .collect();
        members.push(format!("in state lit {{ {inside}}}"));
    }
    if chance.one_in(4) {
        members.push(
            "routine brood { wait 0.4 s; n += 1; repeat { wait 1 s; turn by 5 deg } }".into(),
        );
    }
    // What is born again and again is over some time.
    members.push("after 3 s { end self because \"old\" }".into());
    Item::block(format!("kind {name}"), members)
}

fn handler(head: &str, name: &str, chance: &mut Chance, odd: &Oddities) -> String {
    let mute = if odd.muted && chance.one_in(4) { "off " } else { "" };
    let mut does: Vec<String> =
        (0..1 + chance.below(3)).map(|_| chance.of(DEEDS).to_string()).collect();
    // Births in every tick, or of those that are just born, are storms and nothing else.
    let is_calm = !["on birth", "every tick"].contains(&head) && name != "drop";
    if is_calm && chance.one_in(2) {
        does.push(chance.of(BIRTHS).to_string());
    }
    if is_calm && !head.contains("quitting") && chance.one_in(4) {
        does.push(chance.of(WAITS).to_string());
    }
    format!("{mute}{head} {{\n        {}\n    }}", does.join("\n        "))
}
