//! Reading a condition: one token decides what comes next, and a few phrases look further.

use crate::syntax::*;
use crate::token::{Token, tokens};
use crate::{Fault, MAX_DEPTH, MAX_LENGTH};
use mervik_document::{Span, near};

/// Reads a condition.
///
/// # Errors
///
/// Where the text is no condition, is longer than [`MAX_LENGTH`] bytes or nests deeper than [`MAX_DEPTH`]. O(length).
pub fn parse(text: &str) -> Result<Expr, Fault> {
    if text.len() > MAX_LENGTH {
        let message = format!("the condition has {} bytes; at most {MAX_LENGTH} are read", text.len());
        return Err(Fault::new(Span { start: 0, end: 1 }, message, "several rules are easier to read than a long one"));
    }
    let tokens = tokens(text)?;
    let mut parser = Parser { tokens, at: 0, depth: 0, end: text.len() as u32 };
    let condition = parser.condition()?;
    match parser.peek() {
        None => Ok(condition),
        Some(_) => Err(parser.unexpected("the end, `and` or `or`")),
    }
}

struct Parser {
    tokens: Vec<(Token, Span)>,
    at: usize,
    depth: usize,
    /// The length of the text.
    end: u32,
}

type Parsed = Result<Expr, Fault>;

impl Parser {
    fn peek(&self) -> Option<&Token> {
        self.peek_at(0)
    }

    fn peek_at(&self, ahead: usize) -> Option<&Token> {
        self.tokens.get(self.at + ahead).map(|(token, _)| token)
    }

    fn is_word(&self, ahead: usize, word: &str) -> bool {
        matches!(self.peek_at(ahead), Some(Token::Word(found)) if found == word)
    }

    fn is_sign(&self, sign: char) -> bool {
        self.peek() == Some(&Token::Sign(sign))
    }

    /// The place of the next token; at the end, the last byte.
    fn here(&self) -> Span {
        let last = Span { start: self.end.saturating_sub(1), end: self.end };
        self.tokens.get(self.at).map_or(last, |(_, span)| *span)
    }

    /// From the start of something to the end of the last token.
    fn since(&self, start: Span) -> Span {
        let last = self.at.checked_sub(1).and_then(|at| self.tokens.get(at)).map_or(start, |(_, span)| *span);
        Span { start: start.start, end: last.end }
    }

    fn take_word(&mut self, word: &str) -> bool {
        let is = self.is_word(0, word);
        self.at += usize::from(is);
        is
    }

    fn take_phrase(&mut self, words: &[&str]) -> bool {
        let is = words.iter().enumerate().all(|(ahead, word)| self.is_word(ahead, word));
        if is {
            self.at += words.len();
        }
        is
    }

    fn take_sign(&mut self, sign: char) -> bool {
        let is = self.is_sign(sign);
        self.at += usize::from(is);
        is
    }

    fn unexpected(&self, expected: &str) -> Fault {
        let found = match self.peek() {
            None => "the end".to_owned(),
            Some(Token::Word(word)) => format!("`{word}`"),
            Some(Token::Name(name)) => format!("the name `{name}`"),
            Some(Token::Number(number)) => format!("`{number}`"),
            Some(Token::Text(_)) => "a text".to_owned(),
            Some(Token::Date(text) | Token::Time(text) | Token::Moment(text)) => format!("`{text}`"),
            Some(Token::Sign(sign)) => format!("`{sign}`"),
        };
        let hint = match self.peek() {
            Some(Token::Word(word)) if RESERVED.contains(&word.as_str()) => {
                Some(format!("a field that is called so stands in backticks: `` `{word}` ``"))
            }
            Some(Token::Word(word)) => {
                let words = ["and", "or", "is", "are", "begins", "ends", "contains", "matches", "does", "then"];
                near::nearest(word, words).map(|near| format!("`{near}` is near"))
            }
            _ => None,
        };
        Fault { span: self.here(), message: format!("expected {expected}, found {found}"), hint }
    }

    fn expect_word(&mut self, word: &str) -> Result<(), Fault> {
        if self.take_word(word) { Ok(()) } else { Err(self.unexpected(&format!("`{word}`"))) }
    }

    fn expect_sign(&mut self, sign: char) -> Result<(), Fault> {
        if self.take_sign(sign) { Ok(()) } else { Err(self.unexpected(&format!("`{sign}`"))) }
    }

    /// Reads something that lies one level deeper.
    fn deeper(&mut self, read: impl FnOnce(&mut Self) -> Parsed) -> Parsed {
        self.depth += 1;
        if self.depth > MAX_DEPTH {
            let message = format!("the condition nests deeper than {MAX_DEPTH} levels");
            return Err(Fault { span: self.here(), message, hint: None });
        }
        let found = read(self);
        self.depth -= 1;
        found
    }

    fn condition(&mut self) -> Parsed {
        self.deeper(|parser| {
            let start = parser.here();
            if !parser.take_word("if") {
                return parser.either();
            }
            let condition = parser.either()?;
            parser.expect_word("then")?;
            let then = parser.condition()?;
            Ok(Expr { what: What::If(condition.into(), then.into()), span: parser.since(start) })
        })
    }

    fn either(&mut self) -> Parsed {
        self.chain("or", What::Or, |parser| parser.chain("and", What::And, Parser::denied))
    }

    /// Parts with a word between them; one alone stands for itself.
    fn chain(&mut self, word: &str, make: fn(Vec<Expr>) -> What, part: impl Fn(&mut Self) -> Parsed) -> Parsed {
        let start = self.here();
        let first = part(self)?;
        if !self.is_word(0, word) {
            return Ok(first);
        }
        let mut parts = vec![first];
        while self.take_word(word) {
            parts.push(part(self)?);
        }
        Ok(Expr { what: make(parts), span: self.since(start) })
    }

    fn denied(&mut self) -> Parsed {
        let start = self.here();
        if self.take_word("not") {
            let denied = self.deeper(Parser::denied)?;
            return Ok(Expr { what: What::Not(denied.into()), span: self.since(start) });
        }
        match self.quantity() {
            Some(quantity) => self.quantified(quantity, start),
            None => self.comparison(),
        }
    }

    /// The quantity that a quantifier begins with, if there is one: after it come a name and `among`.
    fn quantity(&mut self) -> Option<Quantity> {
        let count = |parser: &Self, ahead: usize| match parser.peek_at(ahead) {
            Some(Token::Number(number)) => number.to_u64().and_then(|count| u32::try_from(count).ok()),
            _ => None,
        };
        let (quantity, words) = if self.is_word(0, "each") {
            (Quantity::Each, 1)
        } else if self.is_word(0, "some") {
            (Quantity::Some, 1)
        } else if self.is_word(0, "no") {
            (Quantity::No, 1)
        } else if self.is_word(0, "exactly") {
            (Quantity::Exactly(count(self, 1)?), 2)
        } else if self.is_word(0, "at") && self.is_word(1, "least") {
            (Quantity::AtLeast(count(self, 2)?), 3)
        } else if self.is_word(0, "at") && self.is_word(1, "most") {
            (Quantity::AtMost(count(self, 2)?), 3)
        } else {
            return None;
        };
        let named = matches!(self.peek_at(words), Some(Token::Word(_) | Token::Name(_)));
        (named && self.is_word(words + 1, "among")).then(|| {
            self.at += words;
            quantity
        })
    }

    fn quantified(&mut self, quantity: Quantity, start: Span) -> Parsed {
        let name = match self.peek() {
            Some(Token::Word(name)) if RESERVED.contains(&name.as_str()) => {
                return Err(self.unexpected("a name for each item"));
            }
            Some(Token::Word(name) | Token::Name(name)) => name.clone(),
            _ => return Err(self.unexpected("a name for each item")),
        };
        self.at += 1;
        self.expect_word("among")?;
        let list = self.sum()?;
        self.expect_sign(':')?;
        let body = self.condition()?;
        let what = What::Quantified(quantity, name, list.into(), body.into());
        Ok(Expr { what, span: self.since(start) })
    }

    fn comparison(&mut self) -> Parsed {
        let start = self.here();
        let left = self.sum()?;
        let what = if self.take_word("is") {
            let not = self.take_word("not");
            self.after_is(left, not)?
        } else if self.take_word("are") {
            let not = self.take_word("not");
            self.expect_word("distinct")?;
            What::Of(left.into(), not, Quality::Distinct)
        } else if self.take_phrase(&["does", "not"]) {
            let verb = Relation::VERBS.iter().find(|(_, _, verb, _)| self.is_word(0, verb));
            let Some((relation, _, _, with)) = verb else {
                return Err(self.unexpected("`begin with`, `end with`, `contain` or `match`"));
            };
            self.at += 1;
            self.after_verb(left, true, *relation, with)?
        } else if let Some((relation, _, _, with)) = Relation::VERBS.iter().find(|(_, verb, ..)| self.is_word(0, verb))
        {
            self.at += 1;
            self.after_verb(left, false, *relation, with)?
        } else {
            return Ok(left);
        };
        Ok(Expr { what, span: self.since(start) })
    }

    fn after_is(&mut self, left: Expr, not: bool) -> Result<What, Fault> {
        let qualities = [("present", Quality::Present), ("absent", Quality::Absent), ("empty", Quality::Empty)];
        if let Some((_, quality)) = qualities.iter().find(|(word, _)| self.is_word(0, word)) {
            self.at += 1;
            return Ok(What::Of(left.into(), not, *quality));
        }
        if self.take_word("between") {
            let least = self.sum()?;
            self.expect_word("and")?;
            let most = self.sum()?;
            return Ok(What::Between(left.into(), not, least.into(), most.into()));
        }
        let relation =
            Relation::AFTER_IS.iter().find(|(_, words)| self.take_phrase(words)).map(|(relation, _)| *relation);
        let right = match relation {
            Some(Relation::OneOf) if self.is_sign('(') => self.listed()?,
            _ => self.sum()?,
        };
        let measures =
            matches!(relation, None | Some(Relation::AtLeast | Relation::AtMost | Relation::More | Relation::Less));
        let before = self.is_word(0, "before");
        if measures && (before || self.is_word(0, "after")) {
            self.at += 1;
            let other = self.sum()?;
            let relation = relation.unwrap_or(Relation::Equal);
            return Ok(What::Apart(left.into(), not, relation, right.into(), before, other.into()));
        }
        Ok(What::Related(left.into(), not, relation.unwrap_or(Relation::Equal), right.into()))
    }

    fn after_verb(&mut self, left: Expr, not: bool, relation: Relation, with: &str) -> Result<What, Fault> {
        if !with.is_empty() {
            self.expect_word(with)?;
        }
        if relation == Relation::Begins && self.take_phrase(&["a", "capital"]) {
            return Ok(What::Of(left.into(), not, Quality::Capital));
        }
        let right = self.sum()?;
        Ok(What::Related(left.into(), not, relation, right.into()))
    }

    /// Values in parentheses.
    fn listed(&mut self) -> Parsed {
        let start = self.here();
        self.expect_sign('(')?;
        let mut values = vec![self.sum()?];
        while self.take_sign(',') {
            values.push(self.sum()?);
        }
        self.expect_sign(')')?;
        Ok(Expr { what: What::List(values), span: self.since(start) })
    }

    fn sum(&mut self) -> Parsed {
        let start = self.here();
        let first = self.product()?;
        let mut terms = Vec::new();
        loop {
            let sign = match self.peek() {
                Some(Token::Sign('+')) => Sign::Plus,
                Some(Token::Sign('-')) => Sign::Minus,
                _ => break,
            };
            self.at += 1;
            terms.push((sign, self.product()?));
        }
        Ok(if terms.is_empty() {
            first
        } else {
            Expr { what: What::Sum(first.into(), terms), span: self.since(start) }
        })
    }

    fn product(&mut self) -> Parsed {
        let start = self.here();
        let first = self.unary()?;
        let mut factors = Vec::new();
        loop {
            let factor = match self.peek() {
                Some(Token::Sign('*')) => Factor::Times,
                Some(Token::Sign('/')) => Factor::Over,
                _ => break,
            };
            self.at += 1;
            factors.push((factor, self.unary()?));
        }
        if factors.is_empty() {
            return Ok(first);
        }
        Ok(Expr { what: What::Product(first.into(), factors), span: self.since(start) })
    }

    fn unary(&mut self) -> Parsed {
        let start = self.here();
        if self.take_sign('-') {
            let inner = self.deeper(Parser::unary)?;
            return Ok(Expr { what: What::Minus(inner.into()), span: self.since(start) });
        }
        if let Some(Token::Word(word)) = self.peek()
            && self.is_word(1, "of")
        {
            let Some(function) = Function::find(word) else {
                let names = Function::ALL.map(|(_, name)| name);
                let hint = match near::nearest(word, names) {
                    Some(near) => format!("`{near}` is near"),
                    None => format!("one of {}", names.join(", ")),
                };
                return Err(Fault::new(start, format!("`{word} of` is not known"), hint));
            };
            self.at += 2;
            let inner = self.deeper(Parser::unary)?;
            return Ok(Expr { what: What::Call(function, inner.into()), span: self.since(start) });
        }
        self.primary()
    }

    fn primary(&mut self) -> Parsed {
        let start = self.here();
        let Some(token) = self.peek().cloned() else { return Err(self.unexpected("a value")) };
        let what = match token {
            Token::Sign('(') => {
                self.at += 1;
                let inner = self.condition()?;
                self.expect_sign(')')?;
                // Parentheses say how it was read; the tree says it, too.
                return Ok(Expr { span: self.since(start), ..inner });
            }
            Token::Number(number) => {
                self.at += 1;
                let unit = match self.peek() {
                    Some(Token::Word(word)) => Unit::find(word),
                    _ => None,
                };
                self.at += usize::from(unit.is_some());
                unit.map_or(What::Number(number.clone()), |unit| What::Duration(number, unit))
            }
            Token::Text(text) => self.literal(What::Text(text)),
            Token::Date(text) => self.literal(What::Instant(Instant::Date, text)),
            Token::Time(text) => self.literal(What::Instant(Instant::Time, text)),
            Token::Moment(text) => self.literal(What::Instant(Instant::Moment, text)),
            Token::Word(word) => match word.as_str() {
                "true" | "false" => self.literal(What::Truth(word == "true")),
                "now" | "today" => self.literal(What::Now(word == "today")),
                _ => What::Path(self.path()?),
            },
            Token::Name(_) => What::Path(self.path()?),
            Token::Sign(_) => return Err(self.unexpected("a value")),
        };
        Ok(Expr { what, span: self.since(start) })
    }

    fn literal(&mut self, what: What) -> What {
        self.at += 1;
        what
    }

    fn path(&mut self) -> Result<Path, Fault> {
        let mut steps = Vec::new();
        let start = if self.take_word("here") {
            Start::Here
        } else if self.take_word("document") {
            Start::Document
        } else if self.take_word("above") {
            let mut levels = 1;
            while self.is_sign('.') && self.is_word(1, "above") {
                self.at += 2;
                levels += 1;
            }
            Start::Above(levels)
        } else {
            steps.push(self.name()?);
            Start::Here
        };
        while self.take_sign('.') {
            // After a dot, a word is a name whatever it means elsewhere.
            match self.peek() {
                Some(Token::Word(word)) => {
                    steps.push(word.clone());
                    self.at += 1;
                }
                _ => steps.push(self.name()?),
            }
        }
        Ok(Path { start, steps })
    }

    fn name(&mut self) -> Result<String, Fault> {
        match self.peek() {
            Some(Token::Name(name)) => {
                let name = name.clone();
                self.at += 1;
                Ok(name)
            }
            Some(Token::Word(word)) if !RESERVED.contains(&word.as_str()) => {
                let name = word.clone();
                self.at += 1;
                Ok(name)
            }
            _ => Err(self.unexpected("a field or a value")),
        }
    }
}
