//! The body of one function or light: expressions turned into code, with names for what is shared.

use std::collections::BTreeMap;

use caltrin_core::kind::{InstanceLevel, Kind};
use caltrin_core::program::{
    ChoiceId, Constant, ExprId, InputId, Light, Op, Program, Share, Site, Size, Subject, TableId,
    Turn, Wave,
};
use rustc_hash::FxHashMap;

use super::easings::Easings;
use super::make::{Maker, part_names, type_of};
use super::reach::{Needs, is_one, operands};
use super::types::{plain_line, stays_between};
use super::{Code, Function, FunctionId, Helper, Infix, Local, Prefix, Role, Statement, Type};

/// Beside the three parts of a color: the brightest of them.
const WHOLE: usize = 3;
/// What the roots of the light of each of the eye's cones are called.
const CONES: [&str; 3] = ["cone_long", "cone_middle", "cone_short"];

/// A moment at which values are evaluated.
struct Moment {
    /// The moment around it, and the expression that made this one; none for the run's own.
    from: Option<(usize, ExprId)>,
    now: Code,
    /// Whether it is the same for all lamps.
    for_all: bool,
}

/// The body of one function or light in the making.
pub(super) struct Body<'a> {
    program: &'a Program,
    needs: &'a Needs,
    functions: &'a [Function],
    known: &'a FxHashMap<(Subject, usize), FunctionId>,
    tables: &'a [TableId],
    easings: &'a Easings,
    planned: &'a [InputId],
    choices: &'a [ChoiceId],
    /// In a function, the parameters that inputs come in.
    pub inputs: BTreeMap<(usize, usize), Local>,
    /// In a function, the parameters that choices come in.
    pub chosen: Vec<(Role, Type, Local)>,
    /// The light; `None` in a function.
    light: Option<&'a Light>,
    /// Whether the index is that of a lamp that there is.
    pub within: bool,
    /// What the part that is made next is for what is around it, for names.
    is: Option<&'static str>,
    /// The field current, for names.
    pub property: &'a str,
    pub locals: Vec<String>,
    pub parameters: FxHashMap<(usize, usize), Local>,
    /// In a behavior, the key of its use.
    pub key: Option<Local>,
    /// The moments at which values are evaluated, the run's own first.
    moments: Vec<Moment>,
    /// The moment current.
    at: usize,
    uses: FxHashMap<(usize, ExprId, usize), u32>,
    bound: FxHashMap<(usize, ExprId, usize), Local>,
    keys: FxHashMap<Site, Local>,
    pub shared: Vec<Statement>,
    pub lamp: Vec<Statement>,
}

impl<'a> Body<'a> {
    pub fn new(maker: &'a Maker<'_>, light: Option<&'a Light>) -> Self {
        Body {
            program: maker.program,
            needs: &maker.needs,
            functions: &maker.functions,
            known: &maker.known,
            tables: &maker.tables,
            easings: &maker.easings,
            planned: &maker.inputs,
            choices: &maker.choices,
            is: None,
            inputs: BTreeMap::new(),
            chosen: Vec::new(),
            light,
            within: false,
            property: "",
            locals: Vec::new(),
            parameters: FxHashMap::default(),
            key: None,
            moments: vec![Moment { from: None, now: Code::Now, for_all: true }],
            at: 0,
            uses: FxHashMap::default(),
            bound: FxHashMap::default(),
            keys: FxHashMap::default(),
            shared: Vec::new(),
            lamp: Vec::new(),
        }
    }

    pub fn local(&mut self, name: &str) -> Local {
        self.locals.push(name.to_owned());
        Local(self.locals.len() - 1)
    }

    fn is_array(&self) -> bool {
        self.light.is_some_and(|light| light.size != Size::One)
    }

    /// Counts how often each part is asked for at the current moment.
    pub fn count(&mut self, roots: &[(ExprId, usize)]) {
        let mut open = roots.to_vec();
        while let Some((id, part)) = open.pop() {
            let uses = self.uses.entry((self.at, id, part)).or_insert(0);
            *uses += 1;
            if *uses == 1 {
                match self.program.expr(id).op {
                    // What is evaluated at another moment is counted there.
                    Op::Moment(_, moment) => open.push((moment, 0)),
                    _ => open.extend(operands(self.program, self.needs, id, part)),
                }
            }
        }
    }

    /// Turns to the moment of an [`Op::Moment`], and gives the one before.
    fn turn_to(&mut self, id: ExprId, value: ExprId, moment: ExprId, sharing: bool) -> usize {
        let around = self.at;
        let known = self.moments.iter().position(|m| m.from == Some((around, id)));
        if let Some(known) = known {
            self.at = known;
            return around;
        }
        let for_all =
            self.moments[around].for_all && self.program.expr(moment).scope == InstanceLevel::Book;
        let outside = sharing || (for_all && self.is_array());
        let mut now = self.value(moment, 0, outside);
        if !matches!(now, Code::Local(_) | Code::Number(_)) {
            let local = self.local("then");
            let statement = Statement::Let(local, Type::Number, now);
            if outside {
                self.shared.push(statement)
            } else {
                self.lamp.push(statement)
            }
            now = Code::Local(local);
        }
        self.at = self.moments.len();
        self.moments.push(Moment { from: Some((around, id)), now, for_all });
        let asked: Vec<(ExprId, usize)> = (0..self.program.expr(value).kind.width())
            .filter(|part| self.uses.contains_key(&(around, id, *part)))
            .map(|part| (value, part))
            .collect();
        self.count(&asked);
        around
    }

    /// The value of a part. `sharing` says that what is around it is already outside the loop.
    pub fn value(&mut self, id: ExprId, part: usize, sharing: bool) -> Code {
        let is = self.is.take();
        if let Some(local) = self.bound.get(&(self.at, id, part)) {
            return Code::Local(*local);
        }
        let expr = self.program.expr(id);
        let trivial = matches!(
            expr.op,
            Op::Constant(_) | Op::Now | Op::Clock(_) | Op::Index(_) | Op::Parameter(_)
        );
        if trivial {
            return self.make(id, part, sharing);
        }
        let for_all =
            self.is_array() && expr.scope == InstanceLevel::Book && self.moments[self.at].for_all;
        let named = self.program.local_name(id).is_some();
        let often = self.uses.get(&(self.at, id, part)).is_some_and(|uses| *uses > 1);
        let code = self.make(id, part, sharing || for_all);
        // What has a name already gets no second one.
        if matches!(code, Code::Local(_)) || !(named || often || (for_all && !sharing)) {
            return code;
        }
        let name = self.suggest(id, part, is);
        let local = self.local(&name);
        let statement = Statement::Let(local, type_of(expr.kind), code);
        if for_all || sharing {
            self.shared.push(statement);
        } else {
            self.lamp.push(statement);
        }
        self.bound.insert((self.at, id, part), local);
        Code::Local(local)
    }

    /// What a part is called: by the book's name for it, by what it `is` for what is around it, or by what it does.
    fn suggest(&self, id: ExprId, part: usize, is: Option<&str>) -> String {
        let program = self.program;
        let expr = program.expr(id);
        let suffix = part_names(expr.kind)[part];
        let name = match (program.local_name(id), &expr.op) {
            (Some(name), _) => name,
            (None, Op::Input(id)) => program.input(*id).name.as_str(),
            (None, Op::Signal(id)) => return format!("{}_now{suffix}", program.signal(*id).name),
            (None, Op::Curve(id, _)) => return format!("{}_now", program.curve(*id).name),
            (None, Op::Call(id, ..)) => {
                return format!("{}_now{suffix}", program.behavior(*id).name);
            }
            (None, _) if is.is_some() => is.unwrap_or_default(),
            (None, Op::Equal(..)) => "odd_one",
            (None, Op::ConeRoot(cone, _)) => CONES[usize::from(*cone)],
            (None, Op::Lerp(from, to, _)) if self.cone(*from).or(self.cone(*to)).is_some() => {
                self.cone(*from).or(self.cone(*to)).unwrap_or_default()
            }
            // What the game sets, in the book's units.
            (None, Op::Multiply(value, _)) if self.input_name(*value).is_some() => {
                self.input_name(*value).unwrap_or_default()
            }
            (None, _) if expr.kind == Kind::Color => "color_now",
            (None, _) if expr.kind == Kind::Point => "place",
            (None, _) if expr.kind == Kind::OnOff && !self.property.is_empty() => {
                return format!("{}_if", self.property);
            }
            (None, _) if self.property.is_empty() => "part",
            (None, op) => return format!("{}_{}{suffix}", self.property, done(op)),
        };
        format!("{name}{suffix}")
    }

    /// The name of the input that this is, if it is one.
    fn input_name(&self, id: ExprId) -> Option<&str> {
        match self.program.expr(id).op {
            Op::Input(input) => Some(self.program.input(input).name.as_str()),
            _ => None,
        }
    }

    /// Which cone's root this is, if it is one.
    fn cone(&self, id: ExprId) -> Option<&'static str> {
        match self.program.expr(id).op {
            Op::ConeRoot(cone, _) => Some(CONES[usize::from(cone)]),
            _ => None,
        }
    }

    /// The key of a place of chance.
    fn site_key(&mut self, site: Site) -> Code {
        if let Some(key) = self.key {
            return Code::Helper(Helper::ChanceKey, vec![Code::Local(key), Code::Word(site.place)]);
        }
        let fixed = Code::Helper(Helper::ChanceKey, vec![Code::Seed, Code::Word(site.place)]);
        let Some(light) =
            self.light.filter(|_| self.is_array() && site.scope != InstanceLevel::Book)
        else {
            return fixed;
        };
        let local = match self.keys.get(&site) {
            Some(local) => *local,
            None => {
                let local = self.local(&format!("{}_key", self.property));
                self.shared.push(Statement::Let(local, Type::Word, fixed));
                self.keys.insert(site, local);
                local
            }
        };
        let lamps = match site.scope {
            InstanceLevel::Instance(_) => light.share(site.scope).lamps,
            InstanceLevel::Lamp | InstanceLevel::Book => 1,
        };
        let index = Code::Index(Share { lamps, of: None });
        Code::Helper(Helper::LampKey, vec![Code::Local(local), index])
    }

    /// A name for what is used twice, unless it is short.
    fn held_once(&mut self, code: Code, name: &str, id: ExprId, sharing: bool) -> Code {
        if matches!(code, Code::Local(_) | Code::Number(_)) {
            return code;
        }
        let shared = self.is_array()
            && self.program.expr(id).scope == InstanceLevel::Book
            && self.moments[self.at].for_all;
        let local = self.local(name);
        let statement = Statement::Let(local, Type::Number, code);
        match sharing || shared {
            true => self.shared.push(statement),
            false => self.lamp.push(statement),
        }
        Code::Local(local)
    }

    fn two(&mut self, sign: Infix, a: ExprId, b: ExprId, part: usize, sharing: bool) -> Code {
        let scalar = self.program.expr(b).kind.width() == 1;
        let left_part = if self.program.expr(a).kind.width() == 1 { 0 } else { part };
        let left = self.value(a, left_part, sharing);
        let right = self.value(b, if scalar { 0 } else { part }, sharing);
        // Known numbers come to bit-identical results here as in every language.
        if let (Code::Number(a), Code::Number(b)) = (&left, &right) {
            let known = match sign {
                Infix::Plus => Some(a + b),
                Infix::Minus => Some(a - b),
                Infix::Times => Some(a * b),
                Infix::Over => Some(a / b),
                _ => None,
            };
            if let Some(known) = known.filter(|known| known.is_finite()) {
                return Code::Number(known);
            }
        }
        Code::infix(sign, left, right)
    }

    fn make(&mut self, id: ExprId, part: usize, sharing: bool) -> Code {
        let program = self.program;
        match &program.expr(id).op {
            Op::Constant(Constant::Scalar(v)) => Code::Number(*v),
            Op::Constant(Constant::Vector(v)) => Code::Number(v[part]),
            Op::Constant(Constant::OnOff(on)) => Code::Flag(*on),
            Op::Now => self.moments[self.at].now.clone(),
            Op::Clock(dial) => Code::Clock(*dial),
            Op::Index(scope) => {
                Code::IndexNumber(self.light.map_or(Share::LAMP, |light| light.share(*scope)))
            }
            Op::Parameter(n) => Code::Local(self.parameters[&(*n, part)]),
            Op::Input(input) => self.input(*input, part),
            Op::IsChosen(choice, option) => {
                let chosen = self.chosen(Role::IsChosen(self.choice(*choice)));
                Code::infix(Infix::Is, chosen, Code::Word(*option))
            }
            Op::Weight(choice, option) => self.chosen(Role::Weight(self.choice(*choice), *option)),
            Op::Signal(signal) => {
                let function = self.known[&(Subject::Signal(*signal), part)];
                self.call(function, None, &[], sharing)
            }
            Op::Call(behavior, arguments, site) => {
                let function = self.known[&(Subject::Behavior(*behavior), part)];
                self.call(function, *site, arguments, sharing)
            }
            Op::Negate(a) => Code::Prefix(Prefix::Minus, Box::new(self.value(*a, part, sharing))),
            Op::ChangeUp(a, up) => {
                let (from, turned) = up.parts()[part];
                let value = self.value(*a, from, sharing);
                if turned { Code::Prefix(Prefix::Minus, Box::new(value)) } else { value }
            }
            Op::Not(a) => Code::Prefix(Prefix::Not, Box::new(self.value(*a, 0, sharing))),
            Op::Add(a, b) => self.two(Infix::Plus, *a, *b, part, sharing),
            Op::Subtract(a, b) => self.two(Infix::Minus, *a, *b, part, sharing),
            Op::Multiply(a, b) => self.two(Infix::Times, *a, *b, part, sharing),
            Op::Divide(a, b) => self.two(Infix::Over, *a, *b, part, sharing),
            Op::Above(a, b) => self.two(Infix::Above, *a, *b, part, sharing),
            Op::Equal(a, b) => self.two(Infix::Equal, *a, *b, part, sharing),
            Op::And(a, b) => self.two(Infix::And, *a, *b, part, sharing),
            Op::Or(a, b) => self.two(Infix::Or, *a, *b, part, sharing),
            Op::Min(a, b) => self.helper(Helper::Min, &[*a, *b], sharing),
            Op::Max(a, b) => self.helper(Helper::Max, &[*a, *b], sharing),
            Op::Clamp(v, lo, hi) => self.helper(Helper::Clamp, &[*v, *lo, *hi], sharing),
            Op::Lerp(a, b, s) => {
                if let Some(code) = self.plainly_between(*a, *b, *s, sharing) {
                    return code;
                }
                let a = self.value(*a, part, sharing);
                let b = self.value(*b, part, sharing);
                let s = self.value(*s, 0, sharing);
                Code::Helper(Helper::Lerp, vec![a, b, s])
            }
            // The condition was not reached, so its signals have no functions.
            Op::Select(_, a, b) if is_one(program, *a, *b, part) => self.value(*a, part, sharing),
            Op::Select(c, a, b) => {
                let c = self.value(*c, 0, sharing);
                let (a, b) = (self.value(*a, part, sharing), self.value(*b, part, sharing));
                if a == b {
                    return a;
                }
                Code::Select(Box::new(c), Box::new(a), Box::new(b))
            }
            Op::Parts(x, y, z) => self.value([*x, *y, *z][part], 0, sharing),
            Op::SampleAndHold(shortest, longest, site) => {
                let [key, rate, jitter] = self.held(*shortest, *longest, *site, sharing);
                let now = self.moments[self.at].now.clone();
                match jitter {
                    // Bit for bit the same.
                    Code::Number(0.0) => Code::Helper(Helper::SteadyLevel, vec![now, key, rate]),
                    jitter => Code::Helper(Helper::HeldLevel, vec![now, key, rate, jitter]),
                }
            }
            Op::SmoothHold(shortest, longest, part, site) => {
                let [key, rate, jitter] = self.held(*shortest, *longest, *site, sharing);
                let part = self.value(*part, 0, sharing);
                let now = self.moments[self.at].now.clone();
                Code::Helper(Helper::SoftLevel, vec![now, key, rate, jitter, part])
            }
            Op::Drift(rate, octaves, site) => {
                let key = self.site_key(*site);
                let rate = self.value(*rate, 0, sharing);
                let now = self.moments[self.at].now.clone();
                Code::Helper(Helper::DriftLevel, vec![now, key, rate, Code::Word(*octaves)])
            }
            Op::Burst(times, tables, site) => {
                let key = self.site_key(*site);
                let mut arguments = vec![self.moments[self.at].now.clone(), key];
                arguments.extend(times.iter().map(|time| self.value(*time, 0, sharing)));
                arguments.extend(tables.iter().map(|table| self.table(*table)));
                let pairs = program.table(tables[0]).count() as u32 - 1;
                arguments.push(Code::Word(pairs));
                Code::Helper(Helper::BurstLevel, arguments)
            }
            Op::InBall(parts, radius) => {
                let from = [0, 1, 2].map(|n| parts[(part + n) % 3]);
                let inside = self.helper(Helper::InBall, &from, sharing);
                let radius = self.value(*radius, 0, sharing);
                Code::infix(Infix::Times, inside, radius)
            }
            Op::Wave(wave, x) => {
                let helper = match wave {
                    Wave::Sine => Helper::SineLevel,
                    Wave::Triangle => Helper::TriangleLevel,
                    Wave::Saw => Helper::SawLevel,
                };
                self.helper(helper, &[*x], sharing)
            }
            Op::Pure(function, all) => {
                let mut arguments: Vec<Code> =
                    function.first().map(Code::Number).into_iter().collect();
                arguments.extend(all.iter().map(|e| self.value(*e, 0, sharing)));
                Code::Helper(Helper::of(*function), arguments)
            }
            Op::Square(x, on) => self.helper(Helper::SquareLevel, &[*x, *on], sharing),
            Op::Eased(easing, u) => {
                let u = self.value(*u, 0, sharing);
                self.easings.eased(*easing, u)
            }
            Op::Table(table, x) => self.looked_up(Helper::TableLevel, *table, *x, sharing),
            Op::Envelope(table, x) => self.looked_up(Helper::EnvelopeLevel, *table, *x, sharing),
            Op::NextPlace(table, x) => self.looked_up(Helper::NextPlace, *table, *x, sharing),
            Op::Moment(value, moment) => {
                let around = self.turn_to(id, *value, *moment, sharing);
                let code = self.value(*value, part, sharing);
                self.at = around;
                code
            }
            Op::ConeRoot(cone, color) => {
                let helper = [Helper::ConeL, Helper::ConeM, Helper::ConeS][usize::from(*cone)];
                let parts = (0..3).map(|part| self.value(*color, part, sharing)).collect();
                Code::Helper(helper, parts)
            }
            Op::FromCones(l, m, s) => {
                let helper = [Helper::LightR, Helper::LightG, Helper::LightB][part];
                let roots = [*l, *m, *s].into_iter().zip(CONES).map(|(root, cone)| {
                    self.is = Some(cone);
                    self.value(root, 0, sharing)
                });
                Code::Helper(helper, roots.collect())
            }
            Op::Direction(point) => {
                let all: Vec<Code> = (0..3).map(|n| self.value(*point, n, sharing)).collect();
                let still = Code::Number(if part == 2 { -1.0 } else { 0.0 });
                let mut arguments = vec![all[part].clone()];
                arguments.extend(all);
                arguments.push(still);
                Code::Helper(Helper::Heading, arguments)
            }
            Op::Phase(site) => {
                let key = self.site_key(*site);
                Code::Helper(Helper::ChancePhase, vec![key])
            }
            Op::Looped(turn, _, at, period) => {
                let helper = match turn {
                    Turn::Loop => Helper::WrapTime,
                    Turn::Alternate => Helper::FoldTime,
                };
                self.helper(helper, &[*at, *period], sharing)
            }
            Op::Curve(curve, at) => {
                let at = self.value(*at, 0, sharing);
                Code::Call(self.known[&(Subject::Curve(*curve), 0)], vec![at])
            }
            Op::Distance(a, b) => {
                let mut sum: Option<Code> = None;
                for part in 0..3 {
                    let (a, b) = (self.value(*a, part, sharing), self.value(*b, part, sharing));
                    let far = Code::infix(Infix::Minus, a, b);
                    let far = self.held_once(far, "far", id, sharing);
                    let square = Code::infix(Infix::Times, far.clone(), far);
                    sum = Some(match sum {
                        Some(before) => Code::infix(Infix::Plus, before, square),
                        None => square,
                    });
                }
                Code::Helper(Helper::Root, sum.into_iter().collect())
            }
            Op::FreeSpark(n) => Code::FreeSpark(*n as usize),
            Op::NextHour(hour, after) => {
                let after = self.value(*after, 0, sharing);
                Code::NextHour(hour.0, Box::new(after))
            }
            Op::MaxComponent(c) => self.brightest(*c, sharing),
            Op::NormalizedColor(c) => {
                let whole = self.brightest(*c, sharing);
                let part = self.value(*c, part, sharing);
                Code::Helper(Helper::Share, vec![part, whole])
            }
        }
    }

    /// What an input is set to: in a light as the run has it, in a function as it is given.
    fn input(&mut self, id: InputId, part: usize) -> Code {
        // Every input that code can reach is planned; another is asked for in needless code only.
        let place = self.planned.iter().position(|known| *known == id);
        let place = place.unwrap_or(self.planned.len() + id.index());
        let input = self.program.input(id);
        let Some(light) = self.light else {
            let name = format!("{}{}", input.name, part_names(input.kind)[part]);
            let local = match self.inputs.get(&(place, part)) {
                Some(local) => *local,
                None => self.local(&name),
            };
            self.inputs.insert((place, part), local);
            return Code::Local(local);
        };
        let index = match input.size {
            Size::One | Size::Open => None,
            Size::Many(n) => {
                let lamps = light.share(input.scope).lamps;
                let index = Code::Index(Share { lamps, of: None });
                // What happens to a lamp happens to one that there is.
                Some(Box::new(match self.within {
                    true => index,
                    false => Code::Helper(Helper::AtMost, vec![index, Code::Word(n - 1)]),
                }))
            }
        };
        Code::Input(place, part, index)
    }

    fn choice(&self, id: ChoiceId) -> usize {
        // Every choice that code can reach is planned.
        self.choices.iter().position(|known| *known == id).unwrap_or_default()
    }

    /// What is chosen, or how much an option counts: in a light as the run has it, in a function as it is
    /// given.
    fn chosen(&mut self, role: Role) -> Code {
        let (choice, option, ty, code) = match role {
            Role::Weight(n, option) => (n, Some(option), Type::Number, Code::Weight(n, option)),
            Role::IsChosen(n) => (n, None, Type::Word, Code::IsChosen(n)),
            Role::Now
            | Role::Seed
            | Role::Key
            | Role::Clock(_)
            | Role::Input(..)
            | Role::Value(..) => {
                return Code::Now;
            }
        };
        if self.light.is_some() {
            return code;
        }
        if let Some((.., local)) = self.chosen.iter().find(|(known, ..)| *known == role) {
            return Code::Local(*local);
        }
        let choice = self.program.choice(self.choices[choice]);
        let name = match option {
            Some(option) => format!("{}_{}", choice.name, choice.options[option as usize]),
            None => choice.name.clone(),
        };
        let local = self.local(&name);
        self.chosen.push((role, ty, local));
        Code::Local(local)
    }

    /// What a table says of a place.
    fn looked_up(&mut self, helper: Helper, table: TableId, x: ExprId, sharing: bool) -> Code {
        let x = self.value(x, 0, sharing);
        let last = self.program.table(table).count() as u32 - 1;
        Code::Helper(helper, vec![x, self.table(table), Code::Word(last)])
    }

    fn table(&self, id: TableId) -> Code {
        // Every table that code can reach is planned.
        Code::Table(self.tables.iter().position(|known| *known == id).unwrap_or_default())
    }

    /// Key, rate and jitter of a held level.
    fn held(&mut self, shortest: ExprId, longest: ExprId, site: Site, sharing: bool) -> [Code; 3] {
        let key = self.site_key(site);
        let a = self.time(shortest, "shortest", sharing);
        let b = self.time(longest, "longest", sharing);
        let (rate, jitter) = held_numbers(a, b);
        [key, rate, jitter]
    }

    /// A time of a held level: it is needed more than once, so what is computed gets a name.
    fn time(&mut self, id: ExprId, name: &str, sharing: bool) -> Code {
        let code = self.value(id, 0, sharing);
        if matches!(code, Code::Number(_) | Code::Local(_)) {
            return code;
        }
        let local = self.local(name);
        let statement = Statement::Let(local, Type::Number, code);
        if sharing {
            self.shared.push(statement)
        } else {
            self.lamp.push(statement)
        }
        self.bound.insert((self.at, id, 0), local);
        Code::Local(local)
    }

    /// A level of 0 to 1 between two known bounds, by the plain line where it gives what the guarded one does.
    fn plainly_between(&mut self, a: ExprId, b: ExprId, s: ExprId, sharing: bool) -> Option<Code> {
        let known = |id| match self.program.constant(id) {
            Some(Constant::Scalar(v)) => Some(v),
            _ => None,
        };
        let (lo, hi) = (known(a)?, known(b)?);
        let level = matches!(
            self.program.expr(s).op,
            Op::SampleAndHold(..)
                | Op::SmoothHold(..)
                | Op::Phase(_)
                | Op::Drift(..)
                | Op::Burst(..)
                | Op::Wave(..)
                | Op::Square(..)
                | Op::Envelope(..)
        );
        if !(level && stays_between(lo, hi)) {
            return None;
        }
        Some(plain_line(lo, hi, self.value(s, 0, sharing)))
    }

    fn helper(&mut self, helper: Helper, operands: &[ExprId], sharing: bool) -> Code {
        let values = operands.iter().map(|e| self.value(*e, 0, sharing)).collect();
        Code::Helper(helper, values)
    }

    /// The brightest part of a color, worked out once.
    fn brightest(&mut self, color: ExprId, sharing: bool) -> Code {
        let key = (self.at, color, WHOLE);
        if let Some(local) = self.bound.get(&key) {
            return Code::Local(*local);
        }
        let for_all = self.is_array()
            && self.program.expr(color).scope == InstanceLevel::Book
            && self.moments[self.at].for_all;
        let outside = sharing || for_all;
        let [r, g, b] = [0, 1, 2].map(|part| self.value(color, part, outside));
        let code = Code::Helper(Helper::Max, vec![Code::Helper(Helper::Max, vec![r, g]), b]);
        let kept = self.held_once(code, "brightest", color, outside);
        if let Code::Local(local) = kept {
            self.bound.insert(key, local);
        }
        kept
    }

    /// A call with what the function needs: moment and seed as they are here, the key of this use,
    /// and parts of the arguments.
    fn call(
        &mut self,
        function: FunctionId,
        site: Option<Site>,
        arguments: &[ExprId],
        sharing: bool,
    ) -> Code {
        let needed = &self.functions[function.0].parameters;
        let mut values = Vec::with_capacity(needed.len());
        for (role, ..) in needed {
            values.push(match role {
                Role::Now => self.moments[self.at].now.clone(),
                Role::Seed => Code::Seed,
                Role::Clock(dial) => Code::Clock(*dial),
                Role::Key => site.map_or(Code::Seed, |site| self.site_key(site)),
                Role::IsChosen(_) | Role::Weight(..) => self.chosen(*role),
                Role::Input(input, part) => self.input(self.planned[*input], *part),
                Role::Value(n, part) => self.value(arguments[*n], *part, sharing),
            });
        }
        Code::Call(function, values)
    }
}

/// Rate and jitter of a held level from its shortest and longest time; known ones are computed.
fn held_numbers(a: Code, b: Code) -> (Code, Code) {
    if let (Code::Number(a), Code::Number(b)) = (&a, &b) {
        return (Code::Number(2.0 / (a + b)), Code::Number((b - a) / (2.0 * (a + b))));
    }
    let two = || Code::Number(2.0);
    let sum = Code::infix(Infix::Plus, a.clone(), b.clone());
    let rate = Code::infix(Infix::Over, two(), sum.clone());
    let span = Code::infix(Infix::Minus, b, a);
    (rate, Code::infix(Infix::Over, span, Code::infix(Infix::Times, two(), sum)))
}

/// What an operation gives, as a part of a name.
fn done(op: &Op) -> &'static str {
    match op {
        Op::Negate(..) | Op::Add(..) | Op::Subtract(..) => "sum",
        Op::Multiply(..) => "product",
        Op::Divide(..) => "ratio",
        Op::Min(..) => "least",
        Op::Max(..) | Op::MaxComponent(..) => "most",
        Op::Clamp(..) => "clamped",
        Op::Lerp(..) => "mix",
        Op::Select(..) => "choice",
        Op::SampleAndHold(..) | Op::SmoothHold(..) => "held",
        Op::Drift(..) => "drift",
        Op::Burst(..) => "burst",
        Op::Wave(..) | Op::Square(..) => "wave",
        Op::Looped(..) | Op::Phase(..) | Op::Now | Op::Moment(..) | Op::NextPlace(..) => "time",
        Op::Eased(..) => "eased",
        Op::Table(..) | Op::Envelope(..) => "level",
        Op::Distance(..) => "distance",
        Op::Clock(..) | Op::NextHour(..) => "hour",
        Op::Weight(..) => "weight",
        Op::Constant(..)
        | Op::Index(..)
        | Op::Parameter(..)
        | Op::Signal(..)
        | Op::Input(..)
        | Op::IsChosen(..)
        | Op::Call(..)
        | Op::Above(..)
        | Op::Equal(..)
        | Op::And(..)
        | Op::Or(..)
        | Op::Not(..)
        | Op::Parts(..)
        | Op::InBall(..)
        | Op::Curve(..)
        | Op::ConeRoot(..)
        | Op::FromCones(..)
        | Op::Pure(..)
        | Op::Direction(..)
        | Op::ChangeUp(..)
        | Op::NormalizedColor(..)
        | Op::FreeSpark(..) => "part",
    }
}
