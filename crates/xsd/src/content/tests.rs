use super::*;
use crate::build::Components;
use crate::names::{ABSENT, NameId, Names};
use proptest::prelude::*;
use std::collections::{HashMap, HashSet};

/// A model over the names `a` to `e`, one declaration each.
#[derive(Clone, Debug)]
enum Tree {
    Name(usize),
    Group(Compositor, Vec<(Tree, u32, Option<u32>)>),
}

fn components() -> (Components, Vec<NameId>) {
    let mut names = Names::new();
    let all: Vec<NameId> = ["a", "b", "c", "d", "e"].iter().map(|local| names.intern(ABSENT, local)).collect();
    let element = |name: &NameId| Element {
        name: *name,
        origin: None,
        ty: ANY_TYPE,
        global: false,
        nillable: false,
        is_abstract: false,
        value: None,
        identities: Vec::new(),
        block: Methods::NONE,
        finals: Methods::NONE,
        head: None,
        members: Vec::new(),
    };
    let components = Components {
        elements: all.iter().map(element).collect(),
        names,
        types: Vec::new(),
        attributes: Vec::new(),
        groups: Vec::new(),
        attribute_groups: Vec::new(),
        identities: Vec::new(),
        notations: Vec::new(),
        globals: HashMap::new(),
        stranger: crate::component::ElementId(0),
        strangers: Vec::new(),
        referred: HashSet::new(),
    };
    (components, all)
}

fn particle(tree: &Tree, min: u32, max: Option<u32>) -> Particle {
    let term = match tree {
        Tree::Name(index) => Term::Element(ElementId(*index as u32)),
        Tree::Group(compositor, parts) => {
            Term::Group(*compositor, parts.iter().map(|(tree, min, max)| particle(tree, *min, *max)).collect())
        }
    };
    Particle { min, max, term, origin: None }
}

/// The places of a word where a particle that starts at one of some places may end: the definition, written down.
fn ends(particle: &Particle, word: &[usize], starts: &HashSet<usize>) -> HashSet<usize> {
    let once = |starts: &HashSet<usize>| -> HashSet<usize> {
        match &particle.term {
            Term::Element(id) => {
                starts.iter().filter(|at| word.get(**at) == Some(&(id.0 as usize))).map(|at| at + 1).collect()
            }
            Term::Group(Compositor::Choice, parts) => parts.iter().flat_map(|part| ends(part, word, starts)).collect(),
            Term::Group(_, parts) => parts.iter().fold(starts.clone(), |starts, part| ends(part, word, &starts)),
            Term::Any(_) => HashSet::new(),
        }
    };
    let mut current = starts.clone();
    for _ in 0..particle.min {
        let next = once(&current);
        // From here on nothing changes any more.
        if next == current {
            break;
        }
        current = next;
    }
    let mut all = current.clone();
    let most = particle.max.map_or(word.len() as u32 + 1, |max| max - particle.min);
    for _ in 0..most {
        current = once(&current);
        let before = all.len();
        all.extend(&current);
        if all.len() == before {
            break;
        }
    }
    all
}

fn accepts(model: &Model, names: &[NameId], word: &[usize]) -> bool {
    let mut state = model.start();
    word.iter().all(|index| model.step(&mut state, Some(names[*index]), Some(ABSENT)).is_some())
        && model.accepts(&state)
}

/// Whether a model is in as many places at once as it may be, so that it gives some up. What people write is in one.
fn gives_up(model: &Model, names: &[NameId], word: &[usize]) -> bool {
    let mut state = model.start();
    word.iter().any(|index| {
        let _ = model.step(&mut state, Some(names[*index]), Some(ABSENT));
        state == State::Lost
    })
}

fn tree() -> impl Strategy<Value = Tree> {
    let occurs = || {
        prop_oneof![
            4 => Just((1, Some(1))),
            2 => Just((0, Some(1))),
            1 => Just((0, None)),
            1 => Just((1, None)),
            1 => Just((2, Some(3))),
            1 => Just((0, Some(2))),
            1 => Just((150, Some(200))),
            1 => Just((2, Some(400))),
            1 => Just((120, None)),
        ]
    };
    let leaf = (0usize..5).prop_map(Tree::Name);
    leaf.prop_recursive(3, 12, 4, move |inner| {
        let compositor = prop_oneof![Just(Compositor::Sequence), Just(Compositor::Choice)];
        let part = (inner, occurs()).prop_map(|(tree, (min, max))| (tree, min, max));
        (compositor, prop::collection::vec(part, 1..4)).prop_map(|(compositor, parts)| Tree::Group(compositor, parts))
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// The automaton says what the definition of particles says, ambiguous or not, counted or not.
    #[test]
    fn models_accept_what_their_particles_stand_for(
        tree in tree(),
        (min, max) in prop_oneof![Just((1u32, Some(1u32))), Just((0, None)), Just((1, Some(2))), Just((3, Some(130)))],
        words in prop::collection::vec(prop::collection::vec(0usize..5, 0..7), 12),
        runs in prop::collection::vec((0usize..5, 100usize..260), 2),
    ) {
        let (components, names) = components();
        let particle = particle(&tree, min, max);
        let (model, _) = compile(&components, &particle);
        let long = runs.iter().map(|(name, count)| vec![*name; *count]);
        for word in words.into_iter().chain(long) {
            if word.len() > 60 && gives_up(&model, &names, &word) {
                continue;
            }
            let expected = ends(&particle, &word, &HashSet::from([0])).contains(&word.len());
            prop_assert_eq!(accepts(&model, &names, &word), expected, "{:?} {:?}", particle, word.len());
        }
    }
}

fn of(compositor: Compositor, parts: &[(usize, u32, Option<u32>)]) -> Tree {
    Tree::Group(compositor, parts.iter().map(|(name, min, max)| (Tree::Name(*name), *min, *max)).collect())
}

#[test]
fn large_counts_cost_no_more_than_small_ones() {
    let (components, names) = components();
    let tree = of(Compositor::Sequence, &[(0, 2, Some(100_000)), (1, 1, Some(1))]);
    let (model, ambiguities) = compile(&components, &particle(&tree, 1, Some(1)));
    assert!(ambiguities.is_empty());
    let word = |count: usize| [vec![0; count], vec![1]].concat();
    for (count, expected) in [(1, false), (2, true), (99_999, true), (100_000, true), (100_001, false)] {
        assert_eq!(accepts(&model, &names, &word(count)), expected, "{count}");
    }
}

#[test]
fn ambiguity_is_told_between_different_particles_alone() {
    use Compositor::{All, Choice, Sequence};
    let (components, _) = components();
    let one = Some(1);
    let table = [
        (of(Sequence, &[(0, 0, None), (0, 1, one)]), 1),
        (of(Sequence, &[(0, 0, one), (1, 0, one), (0, 1, one)]), 1),
        (of(Sequence, &[(0, 1, None), (1, 1, one), (0, 1, one)]), 0),
        (of(Sequence, &[(0, 2, Some(3))]), 0),
        (of(Sequence, &[(0, 3, Some(3)), (0, 1, one)]), 0),
        (of(Sequence, &[(0, 200, Some(200)), (0, 1, one)]), 0),
        (of(Sequence, &[(0, 200, Some(201)), (0, 1, one)]), 1),
        (of(Choice, &[(0, 1, one), (0, 1, one)]), 1),
        (of(Choice, &[(0, 1, one), (1, 1, one)]), 0),
        (of(All, &[(0, 1, one), (0, 0, one)]), 1),
        (of(All, &[(0, 1, one), (1, 0, one)]), 0),
    ];
    for (tree, expected) in table {
        let particle = particle(&tree, 1, Some(1));
        // Without an origin in a schema, particles are told apart by their position.
        let (_, found) = compile(&components, &particle);
        assert_eq!(found.len(), expected, "{tree:?}");
    }
}

#[test]
fn an_all_group_keeps_what_has_come() {
    let (components, names) = components();
    let tree = of(Compositor::All, &[(0, 1, Some(1)), (1, 0, Some(1)), (2, 1, Some(1))]);
    let (model, _) = compile(&components, &particle(&tree, 1, Some(1)));
    for (word, expected) in
        [(&[0, 2][..], true), (&[2, 1, 0], true), (&[0], false), (&[0, 0, 2], false), (&[], false), (&[0, 2, 3], false)]
    {
        assert_eq!(accepts(&model, &names, word), expected, "{word:?}");
    }
    let mut state = model.start();
    model.step(&mut state, Some(names[2]), Some(ABSENT));
    assert_eq!(model.expected(&state), [Expected::Element(names[0]), Expected::Element(names[1])]);
    let (model, _) = compile(&components, &particle(&tree, 0, Some(1)));
    assert!(accepts(&model, &names, &[]));
}
