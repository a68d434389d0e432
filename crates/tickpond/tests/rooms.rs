//! The rooms of the house: the modules of a crate know each other one way, and none is too large to be read at once.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

use rstest::rstest;
use syn::visit::{self, Visit};

/// Modules that may know each other both ways; `docs/architecture.md` says why.
const BOTH_WAYS: &[&[&str]] = &[&["code::op", "code::op::asked"]];

/// Most lines of a source file.
const MOST_LINES: usize = 500;

type Module = Vec<String>;

fn sources(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..").join(name).join("src")
}

/// The files of a crate with the modules they are.
fn modules(folder: &Path) -> BTreeMap<Module, PathBuf> {
    fn below(root: &Path, folder: &Path, found: &mut BTreeMap<Module, PathBuf>) {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                below(root, &path, found);
            } else if path.extension().is_some_and(|e| e == "rs") {
                let relative = path.strip_prefix(root).unwrap().with_extension("");
                let mut module: Module =
                    relative.iter().map(|part| part.to_string_lossy().into_owned()).collect();
                if ["mod", "lib", "main"].contains(&module.last().unwrap().as_str()) {
                    module.pop();
                }
                found.insert(module, path);
            }
        }
    }
    let mut found = BTreeMap::new();
    below(folder, folder, &mut found);
    found
}

/// Gathers the paths a file names, code for tests left out.
struct Paths {
    found: Vec<Vec<String>>,
}

fn is_for_tests(attributes: &[syn::Attribute]) -> bool {
    attributes.iter().any(|attribute| {
        let is_test = |list: &syn::MetaList| list.tokens.to_string() == "test";
        attribute.path().is_ident("cfg") && attribute.meta.require_list().is_ok_and(is_test)
    })
}

impl Paths {
    fn of_use(&mut self, before: &[String], tree: &syn::UseTree) {
        let with = |name: &syn::Ident| {
            let mut path = before.to_vec();
            path.push(name.to_string());
            path
        };
        match tree {
            syn::UseTree::Path(path) => self.of_use(&with(&path.ident), &path.tree),
            syn::UseTree::Name(name) => self.found.push(with(&name.ident)),
            syn::UseTree::Rename(name) => self.found.push(with(&name.ident)),
            syn::UseTree::Glob(_) => self.found.push(before.to_vec()),
            syn::UseTree::Group(group) => {
                group.items.iter().for_each(|tree| self.of_use(before, tree));
            }
        }
    }
}

impl<'ast> Visit<'ast> for Paths {
    fn visit_item_use(&mut self, item: &'ast syn::ItemUse) {
        if !is_for_tests(&item.attrs) {
            self.of_use(&[], &item.tree);
        }
    }

    fn visit_item_mod(&mut self, item: &'ast syn::ItemMod) {
        if !is_for_tests(&item.attrs) {
            visit::visit_item_mod(self, item);
        }
    }

    fn visit_item_fn(&mut self, item: &'ast syn::ItemFn) {
        if !is_for_tests(&item.attrs) {
            visit::visit_item_fn(self, item);
        }
    }

    fn visit_visibility(&mut self, _: &'ast syn::Visibility) {}

    fn visit_path(&mut self, path: &'ast syn::Path) {
        let names: Vec<String> = path.segments.iter().map(|s| s.ident.to_string()).collect();
        self.found.push(names);
        visit::visit_path(self, path);
    }
}

/// Which modules each module names.
fn known(name: &str) -> BTreeMap<Module, BTreeSet<Module>> {
    let modules = modules(&sources(name));
    let is_test = |module: &Module| module.iter().any(|part| part.ends_with("tests"));
    let mut known = BTreeMap::new();
    for (module, path) in modules.iter().filter(|(module, _)| !is_test(module)) {
        let file = syn::parse_file(&std::fs::read_to_string(path).unwrap()).unwrap();
        let mut paths = Paths { found: Vec::new() };
        paths.visit_file(&file);
        let meant = paths.found.into_iter().filter_map(|path| {
            let ups = path.iter().take_while(|part| *part == "super").count();
            let whole: Module = match path.first()?.as_str() {
                "crate" => path[1..].to_vec(),
                "super" => [&module[..module.len().checked_sub(ups)?], &path[ups..]].concat(),
                "self" => [module.as_slice(), &path[1..]].concat(),
                _ => {
                    let child = [module.as_slice(), &path[..1]].concat();
                    modules.contains_key(&child).then(|| [module.as_slice(), &path].concat())?
                }
            };
            let lengths = (0..=whole.len()).rev();
            lengths.map(|length| whole[..length].to_vec()).find(|part| modules.contains_key(part))
        });
        let meant: BTreeSet<Module> = meant.filter(|other| other != module).collect();
        known.insert(module.clone(), meant);
    }
    known
}

/// All that a module comes to by way of others.
fn reached(known: &BTreeMap<Module, BTreeSet<Module>>, from: &Module) -> BTreeSet<Module> {
    let (mut seen, mut next) = (BTreeSet::new(), vec![from.clone()]);
    while let Some(module) = next.pop() {
        for other in known.get(&module).into_iter().flatten() {
            if seen.insert(other.clone()) {
                next.push(other.clone());
            }
        }
    }
    seen
}

#[rstest]
fn modules_know_each_other_one_way(
    #[values(
        "tickpond-lang",
        "tickpond-ide",
        "tickpond-sim",
        "tickpond-lab",
        "tickpond-draw",
        "tickpond"
    )]
    name: &str,
) {
    let known = known(name);
    let all: BTreeMap<&Module, BTreeSet<Module>> =
        known.keys().map(|module| (module, reached(&known, module))).collect();
    let mut cycles = BTreeSet::new();
    for (module, reaches) in &all {
        let mutual =
            reaches.iter().filter(|other| all.get(other).is_some_and(|r| r.contains(*module)));
        let cycle: BTreeSet<String> = mutual.map(|m| m.join("::")).collect();
        let is_allowed =
            BOTH_WAYS.iter().any(|pair| cycle.iter().map(String::as_str).eq(pair.iter().copied()));
        if !cycle.is_empty() && !is_allowed {
            cycles.insert(cycle);
        }
    }
    assert_eq!(cycles, BTreeSet::new());
}

#[rstest]
fn no_file_is_too_long(
    #[values(
        "tickpond-lang",
        "tickpond-ide",
        "tickpond-sim",
        "tickpond-lab",
        "tickpond-draw",
        "tickpond"
    )]
    name: &str,
) {
    let long: Vec<String> = modules(&sources(name))
        .into_values()
        .map(|path| (std::fs::read_to_string(&path).unwrap().lines().count(), path))
        .filter(|(lines, _)| *lines > MOST_LINES)
        .map(|(lines, path)| format!("{}: {lines}", path.display()))
        .collect();
    assert_eq!(long, Vec::<String>::new());
}
