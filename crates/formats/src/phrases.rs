//! What makes a text no text of its format, in all of Mervik's languages.

mervik_document::phrases! {
    /// Phrases about YAML, TOML, tables, forms and variables.
    pub(crate) trait Phrases;
    levels(count): "at most {count} levels", "höchstens {count} Ebenen", "como máximo {count} niveles", "{count}階層以下";
    name_once(): "a name once", "ein Name einmal", "un nombre una vez", "名前は一度だけ";
    text_elsewhere(): "one that is text elsewhere", "einer, der anderswo Text ist", "uno que en otro lugar es texto", "別の所では文字列である名前";
    not_both(): "a name with parts, and the same name without them, cannot both be there", "ein Name mit Teilen und derselbe ohne sie können nicht beide da sein",
        "un nombre con partes y el mismo sin ellas no pueden estar a la vez", "部分を持つ名前と、持たない同じ名前は両立しません";
    came_before(): "a name that came before", "ein Name, der schon da war", "un nombre que ya estaba", "すでに出た名前";
    half_surrogate(): "half of a surrogate pair", "die Hälfte eines Surrogatpaars", "medio par sustituto", "サロゲートの片方";
    odd_byte(): "an odd byte at the end", "ein einzelnes Byte am Ende", "un byte suelto al final", "末尾の余分な1バイト";
    decoded_utf8(): "UTF-8 once decoded", "dekodiert UTF-8", "UTF-8 una vez decodificado", "復号するとUTF-8";
    form_is_utf8(): "the sender may encode in Latin-1; a form is UTF-8", "der Absender kodiert vielleicht in Latin-1; ein Formular ist UTF-8",
        "el emisor quizá codifica en Latin-1; un formulario es UTF-8", "送信側がLatin-1で符号化しているかもしれません。フォームはUTF-8です";
    path_name(): "a name such as `a[b]`, `a[]` or `a.b`", "ein Name wie `a[b]`, `a[]` oder `a.b`", "un nombre como `a[b]`, `a[]` o `a.b`", "`a[b]`、`a[]`、`a.b`のような名前";
    another_line(): "another line", "eine andere Zeile", "otra línea", "別の行";
    end_of_line(): "the end of the line after a quoted value", "das Zeilenende nach einem Wert in Anführungszeichen", "el fin de línea tras un valor entre comillas", "引用符で囲んだ値の後の行末";
    more_of_it(): "more of it", "mehr davon", "más de ella", "続き";
    closing(quote): "a closing `{quote}`", "ein schließendes `{quote}`", "un `{quote}` de cierre", "閉じる`{quote}`";
    end_of_text(): "the end of the text", "das Ende des Textes", "el final del texto", "テキストの終わり";
    something_else(): "something else", "etwas anderes", "otra cosa", "別のもの";
    is_no(format, why): "is no {format}: {why}", "ist kein {format}: {why}", "no es {format}: {why}", "{format}ではありません: {why}";
    json_number(): "a number that JSON has", "eine Zahl, die JSON hat", "un número que JSON tenga", "JSONにある数値";
    quotes_make_text(): "quotes make it text", "Anführungszeichen machen es zu Text", "las comillas lo hacen texto", "引用符で囲めば文字列になります";
    column_names(): "a name for every column", "ein Name für jede Spalte", "un nombre para cada columna", "すべての列の名前";
    none_for_column(at): "none for column {at}", "keiner für Spalte {at}", "ninguno para la columna {at}", "{at}列目の名前なし";
    beside(name, other): "`{name}` beside `{other}`", "`{name}` neben `{other}`", "`{name}` junto a `{other}`", "`{other}`と並ぶ`{name}`";
    columns_together(): "columns that go together", "Spalten, die zusammenpassen", "columnas compatibles", "両立する列";
    row_of_names(): "a row of column names", "eine Zeile mit Spaltennamen", "una fila de nombres de columnas", "列名の行";
    one_field(): "1 field, one for each column", "1 Feld, eines je Spalte", "1 campo, uno por columna", "列ごとに一つ、計1個の値";
    fields(count): "{count} fields, one for each column", "{count} Felder, eines je Spalte", "{count} campos, uno por columna", "列ごとに一つ、計{count}個の値";
    nothing_from(column): "from the column `{column}` on there is nothing", "ab der Spalte `{column}` ist nichts da", "desde la columna `{column}` no hay nada", "列`{column}`から先がありません";
    closing_quote(quote): "a `{quote}` that closes the field", "ein `{quote}`, das das Feld schließt", "un `{quote}` que cierre el campo", "フィールドを閉じる`{quote}`";
    end_of_table(): "the end of the table", "das Ende der Tabelle", "el final de la tabla", "表の終わり";
    needs_quotes(delimiter): "a `{delimiter}` in a value needs quotes around the value", "ein `{delimiter}` in einem Wert braucht Anführungszeichen um den Wert",
        "un `{delimiter}` en un valor necesita comillas alrededor", "値の中の`{delimiter}`には、値を囲む引用符が必要です";
    scalar_for_name(): "a scalar for the name of a member", "ein Skalar als Name eines Members", "un escalar como nombre de un miembro", "メンバー名のスカラー";
    a_collection(): "a collection", "eine Sammlung", "una colección", "コレクション";
    names_are_text(): "JSON, which schemas speak of, has no other names than text", "JSON, von dem Schemas sprechen, hat nur Text als Namen",
        "JSON, del que hablan los esquemas, no tiene más nombres que texto", "スキーマの対象であるJSONの名前は文字列だけです";
    an_alias(): "an alias", "ein Alias", "un alias", "エイリアス";
    alias_before(): "an alias of what came before", "ein Alias von etwas Vorherigem", "un alias de algo anterior", "前に出たもののエイリアス";
    part_of_itself(): "one of what it is part of", "einer von dem, wozu er gehört", "uno de aquello de lo que forma parte", "自分を含むもののエイリアス";
    bytes(count): "at most {count} bytes", "höchstens {count} Bytes", "como máximo {count} bytes", "{count}バイト以下";
    through_aliases(): "more, through aliases", "mehr, durch Aliase", "más, por los alias", "エイリアスによりそれ以上";
    aliases_multiply(): "aliases of aliases multiply; a text that grows like this is meant to do harm", "Aliase von Aliasen vervielfachen sich; ein Text, der so wächst, soll schaden",
        "los alias de alias se multiplican; un texto que crece así pretende hacer daño", "エイリアスのエイリアスは増殖します。このように膨らむ文書は害を意図したものです";
    scalar_that_is(kind): "a scalar that is `!!{kind}`", "ein Skalar, der `!!{kind}` ist", "un escalar que sea `!!{kind}`", "`!!{kind}`であるスカラー";
}
