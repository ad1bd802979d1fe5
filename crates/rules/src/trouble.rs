//! Why a condition has no answer.

use mervik_document::tongue::Tongue;

/// Why a condition has no answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Trouble {
    /// A number is divided by zero.
    DividesByZero,
    /// A number has too many digits to be calculated with.
    TooLarge,
    /// A time with a zone is compared with one without.
    NoZone,
    /// A date or a moment lies beyond the calendar, which ends with the year 9999.
    BeyondCalendar,
    /// So many hours were added to a date that it is no whole number of days.
    NoWholeDays,
    /// It would take too many steps.
    TooLong,
    /// It asks for the time, and nobody said.
    NoNow,
    /// Values do not go together; a condition that has been checked does not come to this.
    Mismatch,
}

impl Trouble {
    /// What went wrong, as a phrase.
    pub fn words(self, tongue: Tongue) -> String {
        match self {
            Trouble::DividesByZero => tongue.divides_by_zero(),
            Trouble::TooLarge => tongue.too_many_digits(),
            Trouble::NoZone => tongue.zone_against_none(),
            Trouble::BeyondCalendar => tongue.beyond_calendar(),
            Trouble::NoWholeDays => tongue.no_whole_days(),
            Trouble::TooLong => tongue.too_many_steps(),
            Trouble::NoNow => tongue.no_now(),
            Trouble::Mismatch => tongue.mismatch(),
        }
    }
}

mervik_document::phrases! {
    /// Why rules have no answer.
    trait Phrases;
    divides_by_zero(): "it divides by zero", "sie teilt durch null", "divide entre cero", "ゼロで割っています";
    too_many_digits(): "a number has too many digits to be calculated with", "eine Zahl hat zu viele Ziffern zum Rechnen",
        "un número tiene demasiados dígitos para calcular", "桁数が多すぎて計算できない数値があります";
    zone_against_none(): "a time with a zone is compared with one that has none", "eine Zeit mit Zone wird mit einer ohne verglichen",
        "se compara una hora con zona con otra sin ella", "時間帯のある時刻とない時刻を比べています";
    beyond_calendar(): "a date lies beyond the year 9999", "ein Datum liegt nach dem Jahr 9999", "una fecha está más allá del año 9999",
        "9999年より後の日付があります";
    no_whole_days(): "what is added to a date is no whole number of days", "was zu einem Datum gezählt wird, sind keine ganzen Tage",
        "lo que se suma a una fecha no son días enteros", "日付に足す期間が整数の日数ではありません";
    too_many_steps(): "it would take too many steps", "sie bräuchte zu viele Schritte", "necesitaría demasiados pasos", "必要なステップが多すぎます";
    no_now(): "it asks what time it is, and nobody said", "sie fragt nach der Uhrzeit, und niemand hat sie gesagt",
        "pregunta qué hora es, y nadie lo ha dicho", "現在時刻が必要ですが、与えられていません";
    mismatch(): "its values do not go together", "ihre Werte passen nicht zusammen", "sus valores no son compatibles", "値の組み合わせが合いません";
}
