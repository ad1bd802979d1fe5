//! What makes a text no JSON, in all of Mervik's languages.

crate::phrases! {
    /// Phrases about the grammar of JSON.
    pub(super) trait Phrases;
    a_json_value(): "a JSON value", "ein JSON-Wert", "un valor JSON", "JSONの値";
    value_or_end(): "a value or `]`", "ein Wert oder `]`", "un valor o `]`", "値または`]`";
    quoted_name(): "a name in double quotes", "ein Name in doppelten Anführungszeichen", "un nombre entre comillas dobles", "二重引用符で囲んだ名前";
    quoted_name_or_end(): "a name in double quotes or `}}`", "ein Name in doppelten Anführungszeichen oder `}}`", "un nombre entre comillas dobles o `}}`",
        "二重引用符で囲んだ名前または`}}`";
    colon(): "`:` after the name", "`:` nach dem Namen", "`:` tras el nombre", "名前の後の`:`";
    comma_or_brace(): "`,` or `}}` after the member", "`,` oder `}}` nach dem Member", "`,` o `}}` tras el miembro", "メンバーの後の`,`または`}}`";
    comma_or_bracket(): "`,` or `]` after the item", "`,` oder `]` nach dem Element", "`,` o `]` tras el elemento", "要素の後の`,`または`]`";
    end_of_document(): "the end of the document", "das Ende des Dokuments", "el final del documento", "文書の終わり";
    a_digit(): "a digit", "eine Ziffer", "un dígito", "数字";
    closing_quote(): "a closing `\"`", "ein schließendes `\"`", "un `\"` de cierre", "閉じる`\"`";
    escaped_controls(): "control characters in strings to be escaped", "dass Steuerzeichen in Zeichenketten maskiert sind",
        "que los caracteres de control estén escapados", "文字列中の制御文字のエスケープ";
    one_of_escapes(): "one of `\\\" \\\\ \\/ \\b \\f \\n \\r \\t \\u`", "eines von `\\\" \\\\ \\/ \\b \\f \\n \\r \\t \\u`", "uno de `\\\" \\\\ \\/ \\b \\f \\n \\r \\t \\u`",
        "`\\\" \\\\ \\/ \\b \\f \\n \\r \\t \\u`のいずれか";
    hex_digits(): "four hexadecimal digits after `\\u`", "vier hexadezimale Ziffern nach `\\u`", "cuatro dígitos hexadecimales tras `\\u`", "`\\u`の後の16進数字4桁";
    surrogates(): "surrogates in pairs: a high one, then a low one", "Surrogate in Paaren: erst ein hohes, dann ein niedriges",
        "sustitutos por pares: uno alto y luego uno bajo", "上位と下位の順に対になったサロゲート";
    bytes(count): "{count} bytes", "{count} Bytes", "{count} bytes", "{count}バイト";
    levels(count): "{count} levels of arrays and objects", "{count} Ebenen aus Arrays und Objekten", "{count} niveles de arrays y objetos", "{count}階層の配列とオブジェクト";
    short_number(count): "a number of at most {count} characters", "eine Zahl aus höchstens {count} Zeichen", "un número de {count} caracteres como máximo", "{count}文字以下の数値";
    unclosed_string(): "a string that is not closed", "eine Zeichenkette, die nicht geschlossen ist", "una cadena sin cerrar", "閉じていない文字列";
    level(number): "level {number}", "Ebene {number}", "el nivel {number}", "{number}階層目";
    end_of_text(): "the end of the text", "das Ende des Textes", "el final del texto", "テキストの終わり";
    line_end(): "a line end", "ein Zeilenende", "un fin de línea", "改行";
    tab(): "a tab", "ein Tabulator", "un tabulador", "タブ";
    control(code): "the control character U+{code}", "das Steuerzeichen U+{code}", "el carácter de control U+{code}", "制御文字U+{code}";
    trailing_comma(): "a comma must not stand before the closing bracket", "vor der schließenden Klammer darf kein Komma stehen",
        "no debe haber una coma antes del cierre", "閉じ括弧の前にコンマは置けません";
    no_comments(): "JSON has no comments", "JSON hat keine Kommentare", "JSON no tiene comentarios", "JSONにコメントはありません";
    double_quotes(): "JSON strings stand in double quotes, `\"`", "Zeichenketten stehen in JSON in doppelten Anführungszeichen, `\"`",
        "las cadenas JSON van entre comillas dobles, `\"`", "JSONの文字列は二重引用符`\"`で囲みます";
    leading_zero(): "a number must not start with `0` and another digit", "eine Zahl darf nicht mit `0` und einer weiteren Ziffer beginnen",
        "un número no debe empezar por `0` y otro dígito", "数値は`0`に続けて別の数字で始められません";
    comma_missing(): "a comma is missing", "ein Komma fehlt", "falta una coma", "コンマがありません";
    cut_off(): "the document is cut off", "das Dokument ist abgeschnitten", "el documento está cortado", "文書が途中で切れています";
    ndjson(): "one JSON value a line is NDJSON: `--as ndjson` reads it", "ein JSON-Wert je Zeile ist NDJSON: `--as ndjson` liest es",
        "un valor JSON por línea es NDJSON: `--as ndjson` lo lee", "一行に一つのJSON値はNDJSONです: `--as ndjson`で読めます";
    spelled(literal): "JSON spells it `{literal}`", "JSON schreibt es `{literal}`", "JSON lo escribe `{literal}`", "JSONでは`{literal}`と書きます";
    no_such_number(): "JSON has no such number; `null` or a string can stand for it", "JSON hat keine solche Zahl; `null` oder eine Zeichenkette kann dafür stehen",
        "JSON no tiene ese número; puede usarse `null` o una cadena", "JSONにそのような数値はありません。`null`か文字列で代用できます";
    no_plus(): "a number must not start with `+`", "eine Zahl darf nicht mit `+` beginnen", "un número no debe empezar por `+`", "数値は`+`で始められません";
    digit_before_point(): "a digit must stand before the decimal point", "vor dem Dezimalpunkt muss eine Ziffer stehen", "debe haber un dígito antes del punto decimal",
        "小数点の前に数字が必要です";
    string_in_quotes(): "a string stands in double quotes", "eine Zeichenkette steht in doppelten Anführungszeichen", "una cadena va entre comillas dobles",
        "文字列は二重引用符で囲みます";
}
