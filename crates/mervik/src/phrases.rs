//! What reports and checks of whole files say, in all of Mervik's languages.

mervik_document::phrases! {
    /// Phrases around findings.
    pub(crate) trait Phrases;
    record(number): "record {number}", "Datensatz {number}", "registro {number}", "レコード{number}";
    around_the_records(): "around the records", "um die Datensätze herum", "alrededor de los registros", "レコードの周り";
    field(number): "field {number}", "Feld {number}", "campo {number}", "フィールド{number}";
    byte(number): "byte {number}", "Byte {number}", "byte {number}", "{number}バイト目";
    line_and_column(line, column): "line {line}, column {column}", "Zeile {line}, Spalte {column}", "línea {line}, columna {column}", "{line}行{column}列";
    row_document(): "document", "Dokument", "documento", "文書";
    row_schema(): "schema", "Schema", "esquema", "スキーマ";
    row_rule(): "rule", "Regel", "regla", "規則";
    row_reads(): "reads", "liest", "lee", "参照";
    row_hint(): "hint", "Hinweis", "pista", "ヒント";
    row_records(): "records", "Nummern", "números", "番号";
    warning(): "warning", "Warnung", "aviso", "警告";
    same_again(): "the same again", "dasselbe noch einmal", "lo mismo otra vez", "同じ指摘の繰り返し";
    is_rule_wrong(): "is the rule itself wrong?", "ist die Regel selbst falsch?", "¿está mal la propia regla?", "規則自体が誤りではありませんか";
    all_fail(reached): "all {reached} records looked at that reach it fail", "alle {reached} angesehenen Datensätze, die sie erreichen, scheitern",
        "fallan los {reached} registros mirados que llegan a ella", "調べた中でこの規則に届いた{reached}件のレコードがすべて不合格です";
    some_fail(failed, reached): "{failed} of the {reached} records looked at that reach it fail",
        "{failed} von {reached} angesehenen Datensätzen, die sie erreichen, scheitern", "fallan {failed} de los {reached} registros mirados que llegan a ella",
        "調べた中でこの規則に届いた{reached}件のレコードのうち{failed}件が不合格です";
    element_where(path): "an element that `{path}` leads to", "ein Element, zu dem `{path}` führt", "un elemento al que lleva `{path}`", "`{path}`が指す要素";
    none_refused(): "none refused", "keiner abgelehnt", "ninguno rechazado", "拒否なし";
    one_refused(): "1 refused", "1 abgelehnt", "1 rechazado", "拒否1件";
    refused(count): "{count} refused", "{count} abgelehnt", "{count} rechazados", "拒否{count}件";
    sums(documents, records, outcome, findings): "{documents}, {records}: {outcome}, {findings}", "{documents}, {records}: {outcome}, {findings}",
        "{documents}, {records}: {outcome}, {findings}", "{documents}、{records}: {outcome}、{findings}";
    something_else(): "something else (not shown)", "etwas anderes (nicht gezeigt)", "otra cosa (no se muestra)", "別のもの（表示しません）";
    not_shown_here(): "not shown", "nicht gezeigt", "no se muestra", "表示しません";
    mark_not_needed(): "the text starts with a byte-order mark, which UTF-8 does not need", "der Text beginnt mit einer Byte-Order-Mark, die UTF-8 nicht braucht",
        "el texto empieza con una marca de orden de bytes, que UTF-8 no necesita", "テキストがUTF-8に不要なバイト順マークで始まっています";
    utf8_without_mark(): "UTF-8 without a mark", "UTF-8 ohne Marke", "UTF-8 sin marca", "マークのないUTF-8";
    mark_at_start(): "U+FEFF at the start", "U+FEFF am Anfang", "U+FEFF al principio", "先頭のU+FEFF";
    mark_passed_over(): "it is passed over here; other readers stumble on it (RFC 8259, section 8.1)", "hier wird sie übergangen; andere Leser stolpern darüber (RFC 8259, Abschnitt 8.1)",
        "aquí se pasa por alto; otros lectores tropiezan con ella (RFC 8259, sección 8.1)", "ここでは読み飛ばしますが、他の読み手はつまずきます（RFC 8259 8.1節）";
    utf16_by_mark(): "UTF-16, told by its mark", "UTF-16, an der Marke erkennbar", "UTF-16, por su marca", "マークからUTF-16";
    two_files(): "a mark in the midst of a file: two files were put together", "eine Marke mitten in der Datei: zwei Dateien wurden zusammengefügt",
        "una marca en medio del fichero: se juntaron dos ficheros", "ファイルの途中にマークがあります。二つのファイルがつながれています";
    record_too_long(bytes): "the record must have at most {bytes} bytes", "der Datensatz darf höchstens {bytes} Bytes haben", "el registro debe tener como máximo {bytes} bytes",
        "レコードは{bytes}バイト以下でなければなりません";
    bytes(count): "{count} bytes", "{count} Bytes", "{count} bytes", "{count}バイト";
    line_end_missing(): "a line end may be missing; one JSON value may take that much with `--as json`", "vielleicht fehlt ein Zeilenende; mit `--as json` darf ein JSON-Wert so groß sein",
        "puede faltar un fin de línea; con `--as json` un valor JSON puede ocupar tanto", "改行が抜けているかもしれません。`--as json`なら一つのJSON値がその大きさでも読めます";
    a_hidden_value(): "a value (not shown)", "ein Wert (nicht gezeigt)", "un valor (no se muestra)", "値（表示しません）";
    one_of_values_of(count, file): "one of the {count} values of `{file}`", "einer der {count} Werte aus `{file}`", "uno de los {count} valores de `{file}`", "`{file}`の{count}個の値のいずれか";
    no_value_of(file): "no value of `{file}`", "kein Wert aus `{file}`", "ningún valor de `{file}`", "`{file}`にない値";
    record_of(number, document): "record {number} of `{document}`", "Datensatz {number} von `{document}`", "el registro {number} de `{document}`", "`{document}`のレコード{number}";
    not_the_same(record, line, value): "no two records may have the same value here: {record}, line {line}, has {value} too",
        "keine zwei Datensätze dürfen hier denselben Wert haben: {record}, Zeile {line}, hat auch {value}",
        "dos registros no pueden tener aquí el mismo valor: {record}, línea {line}, también tiene {value}",
        "ここでは二つのレコードが同じ値を持てません: {record}（{line}行目）にも{value}があります";
    no_other_has(): "a value that no other record has", "ein Wert, den kein anderer Datensatz hat", "un valor que ningún otro registro tenga", "他のレコードにない値";
    zeros_lost(): "the zeros in front would be lost", "die Nullen davor gingen verloren", "se perderían los ceros de delante", "先頭のゼロが失われます";
    fraction_lost(): "a fraction would be lost", "die Nachkommastellen gingen verloren", "se perdería la fracción", "小数部が失われます";
    words_for_truth(): "`true` and `false` are booleans; `coerce --level generous` takes yes, no, on and off too",
        "`true` und `false` sind Wahrheitswerte; `coerce --level generous` nimmt auch yes, no, on und off",
        "`true` y `false` son booleanos; `coerce --level generous` admite también yes, no, on y off", "`true`と`false`が真偽値です。`coerce --level generous`ならyes、no、on、offも使えます";
    a_frame(): "a frame, which starts with 0 or 1", "ein Rahmen, der mit 0 oder 1 beginnt", "una trama, que empieza por 0 o 1", "0か1で始まるフレーム";
    check_of(document): "Check of {document}", "Prüfung von {document}", "Comprobación de {document}", "{document}の検査";
    check_of_documents(count): "Check of {count} documents", "Prüfung von {count} Dokumenten", "Comprobación de {count} documentos", "{count}件の文書の検査";
    documents(): "Documents", "Dokumente", "Documentos", "文書";
    records(): "Records", "Datensätze", "Registros", "レコード";
    refused_heading(): "Refused", "Abgelehnt", "Rechazados", "拒否";
    findings(): "Findings", "Befunde", "Hallazgos", "指摘";
    by_rule(): "By rule", "Nach Regel", "Por regla", "規則別";
    by_field(): "By field", "Nach Feld", "Por campo", "フィールド別";
    along(): "Along the records", "Über die Datensätze hinweg", "A lo largo de los registros", "レコードの流れ";
    each_bar(records): "Each bar is {records}; the strong part is refused.", "Jeder Balken steht für {records}; der kräftige Teil ist abgelehnt.",
        "Cada barra representa {records}; la parte intensa se rechaza.", "一本の棒は{records}で、濃い部分が拒否されたものです。";
    share_refused(): "The share of refused records, from the first to the last", "Der Anteil abgelehnter Datensätze, vom ersten bis zum letzten",
        "La parte de registros rechazados, del primero al último", "拒否されたレコードの割合（最初から最後まで）";
    records_from_to(first, last, refused): "records {first} to {last}: {refused} refused", "Datensätze {first} bis {last}: {refused} abgelehnt",
        "registros {first} a {last}: {refused} rechazados", "レコード{first}から{last}: 拒否{refused}件";
    nothing_to_say(): "Nothing to say", "Nichts zu sagen", "Nada que decir", "指摘なし";
    all_hold(): "All records hold.", "Alle Datensätze halten.", "Todos los registros cumplen.", "すべてのレコードが適合しています。";
    worst(count): "The {count} records with the most findings", "Die {count} Datensätze mit den meisten Befunden", "Los {count} registros con más hallazgos", "指摘が最も多い{count}件のレコード";
    with_findings(): "Records with findings", "Datensätze mit Befunden", "Registros con hallazgos", "指摘のあるレコード";
    find(): "Find", "Suchen", "Buscar", "検索";
    words_in_finding(): "words in a finding", "Wörter in einem Befund", "palabras de un hallazgo", "指摘の中の語";
    so_many_below(): "{{findings}} findings in {{records}} of the records below", "{{findings}} Befunde in {{records}} der Datensätze unten",
        "{{findings}} hallazgos en {{records}} de los registros de abajo", "下のレコードのうち{{records}}件に{{findings}}件の指摘";
    show_all(): "Show all", "Alle zeigen", "Mostrar todo", "すべて表示";
    too_long(records): "{records} are too long to be shown.", "{records} sind zu lang, um gezeigt zu werden.", "{records} son demasiado largos para mostrarse.", "{records}は長すぎて表示できません。";
    so_many_more(count): "{count} more", "{count} weitere", "{count} más", "他{count}件";
    elsewhere(count): "and {count} findings elsewhere", "und {count} Befunde anderswo", "y {count} hallazgos en otros sitios", "他の場所に{count}件の指摘";
    one_field_wrong(): "1 field is not as it must be.", "1 Feld ist nicht, wie es sein muss.", "1 campo no es como debe ser.", "1個のフィールドが要件を満たしていません。";
    fields_wrong(count): "{count} fields are not as they must be.", "{count} Felder sind nicht, wie sie sein müssen.", "{count} campos no son como deben ser.",
        "{count}個のフィールドが要件を満たしていません。";
    untold(messages): " {messages} more are not told.", " {messages} mehr werden nicht gesagt.", " {messages} más no se dicen.", "他に{messages}は示していません。";
    must_be_at(wanted, at, found): "there must be {wanted} at `{at}`, found {found}", "bei `{at}` muss {wanted} stehen, gefunden: {found}",
        "en `{at}` debe haber {wanted}; se encontró {found}", "`{at}`に{wanted}が必要です（実際は{found}）";
    an_array_of_records(): "an array of records", "ein Array von Datensätzen", "un array de registros", "レコードの配列";
    document_refused(): "The document is refused", "Das Dokument wird abgelehnt", "El documento se rechaza", "文書は拒否されました";
}
