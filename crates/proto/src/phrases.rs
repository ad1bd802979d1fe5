//! What findings of protobuf messages say, in all of Mervik's languages.

mervik_document::phrases! {
    /// Phrases about fields and their forms.
    pub(crate) trait Phrases;
    findings_in_message(count): "at most {count} findings in one message", "höchstens {count} Befunde in einer Nachricht",
        "como máximo {count} hallazgos en un mensaje", "一つのメッセージにつき指摘は{count}件以下";
    fields_of(name): "fields of `{name}` only", "nur Felder von `{name}`", "solo campos de `{name}`", "`{name}`のフィールドのみ";
    field_with_number(number): "a field with the number {number}", "ein Feld mit der Nummer {number}", "un campo con el número {number}", "番号{number}のフィールド";
    utf8_for_rules(): "text in UTF-8, for its rules", "Text in UTF-8, für seine Regeln", "texto en UTF-8, por sus reglas", "規則のためUTF-8の文字列";
    still_used(): "a value that may still be used", "ein Wert, der noch verwendet werden darf", "un valor que aún se pueda usar", "まだ使える値";
    length_of(length, value): "{length}: {value}", "{length}: {value}", "{length}: {value}", "{length}: {value}";
    no_bytes(): "no bytes", "keine Bytes", "ningún byte", "バイトなし";
    required_field(name): "`{name}`, which the message requires", "`{name}`, das die Nachricht verlangt", "`{name}`, que el mensaje exige", "メッセージに必須の`{name}`";
    not_default(): "a value other than the default one", "ein anderer Wert als der voreingestellte", "un valor distinto del predeterminado", "既定値以外の値";
    none(): "none", "keines", "ninguno", "なし";
    one_entry(): "1 entry", "1 Eintrag", "1 entrada", "項目1個";
    entries(count): "{count} entries", "{count} Einträge", "{count} entradas", "項目{count}個";
    json_schema_asks(keyword): "the JSON Schema's `{keyword}` asks for it", "`{keyword}` des JSON Schemas verlangt es", "lo pide `{keyword}` del JSON Schema",
        "JSON Schemaの`{keyword}`が求めています";
    valid_time(): "a time in the years 1 to 9999, with 0 to 999,999,999 nanoseconds", "eine Zeit in den Jahren 1 bis 9999, mit 0 bis 999.999.999 Nanosekunden",
        "una hora en los años 1 a 9999, con 0 a 999 999 999 nanosegundos", "1年から9999年までの時刻で、ナノ秒は0から999,999,999まで";
    valid_duration(): "a duration of at most 10,000 years, seconds and nanoseconds of one sign", "eine Dauer von höchstens 10.000 Jahren, Sekunden und Nanosekunden mit einem Vorzeichen",
        "una duración de 10 000 años como máximo, segundos y nanosegundos de un mismo signo", "1万年以下の期間で、秒とナノ秒の符号は同じ";
    seconds_and_nanos(seconds, nanos): "{seconds} seconds and {nanos} nanoseconds", "{seconds} Sekunden und {nanos} Nanosekunden", "{seconds} segundos y {nanos} nanosegundos",
        "{seconds}秒と{nanos}ナノ秒";
    no_type(): "no type", "kein Typ", "ningún tipo", "型なし";
    any_inside(count): "at most {count} Any messages inside one another", "höchstens {count} Any-Nachrichten ineinander", "como máximo {count} mensajes Any anidados",
        "入れ子のAnyメッセージは{count}個以下";
    messages_inside(count): "at most {count} messages inside one another", "höchstens {count} Nachrichten ineinander", "como máximo {count} mensajes anidados",
        "入れ子のメッセージは{count}個以下";
    groups_inside(count): "at most {count} groups inside one another", "höchstens {count} Gruppen ineinander", "como máximo {count} grupos anidados",
        "入れ子のグループは{count}個以下";
    finite(): "a finite number", "eine endliche Zahl", "un número finito", "有限の数値";
    matching_text(pattern): "text that matches `{pattern}`", "Text, der auf `{pattern}` passt", "texto que coincide con `{pattern}`", "`{pattern}`に一致する文字列";
    bytes_of_ipv4(): "the 4 bytes of an IPv4 address", "die 4 Bytes einer IPv4-Adresse", "los 4 bytes de una dirección IPv4", "IPv4アドレスの4バイト";
    bytes_of_ipv6(): "the 16 bytes of an IPv6 address", "die 16 Bytes einer IPv6-Adresse", "los 16 bytes de una dirección IPv6", "IPv6アドレスの16バイト";
    bytes_of_uuid(): "the 16 bytes of a UUID", "die 16 Bytes einer UUID", "los 16 bytes de un UUID", "UUIDの16バイト";
    defined(): "a value that the enum defines", "ein Wert, den das Enum definiert", "un valor que el enum define", "enumが定義する値";
    anything_but(name): "anything but {name}", "alles außer {name}", "cualquier cosa salvo {name}", "{name}以外";
    neither(names): "neither {names}", "weder {names}", "ni {names}", "{names}以外";
    not_before(time): "a time not before {time}", "eine Zeit nicht vor {time}", "una hora no anterior a {time}", "{time}以後の時刻";
    not_after(time): "a time not after {time}", "eine Zeit nicht nach {time}", "una hora no posterior a {time}", "{time}以前の時刻";
    at_least_long(time): "a duration of at least {time}", "eine Dauer von mindestens {time}", "una duración mínima de {time}", "{time}以上の期間";
    at_most_long(time): "a duration of at most {time}", "eine Dauer von höchstens {time}", "una duración máxima de {time}", "{time}以下の期間";
    message_of(names): "a message of type {names}", "eine Nachricht vom Typ {names}", "un mensaje de tipo {names}", "{names}型のメッセージ";
    paths_among(paths): "paths among {paths}", "Pfade aus {paths}", "rutas entre {paths}", "{paths}の中のパス";
    described_by(name): "what the JSON Schema `{name}` describes", "was das JSON Schema `{name}` beschreibt", "lo que describe el JSON Schema `{name}`",
        "JSON Schema `{name}`が記述するもの";
    object_for(name): "an object (`{name}`)", "ein Objekt (`{name}`)", "un objeto (`{name}`)", "オブジェクト（`{name}`）";
    one_of_names(one, two): "one of the names `{one}` and `{two}`", "einer der Namen `{one}` und `{two}`", "uno de los nombres `{one}` y `{two}`", "名前`{one}`と`{two}`のどちらか";
    one_of_oneof(other): "one field of the oneof, which is `{other}` already", "ein Feld des oneof, das schon `{other}` ist", "un campo del oneof, que ya es `{other}`",
        "oneofのフィールドは一つで、すでに`{other}`があります";
    as_item(what): "{what}, as an item of a list", "{what}, als Element einer Liste", "{what}, como elemento de una lista", "リストの要素として{what}";
    object_for_map(): "an object, for a map", "ein Objekt, für eine Map", "un objeto, para un mapa", "マップのためのオブジェクト";
    key_that_is(what): "a key that is {what}", "als Schlüssel {what}", "una clave que sea {what}", "キーとして{what}";
    as_value_of_map(what): "{what}, as a value of a map", "{what}, als Wert einer Map", "{what}, como valor de un mapa", "マップの値として{what}";
    value_of_enum(name): "a value of the enum `{name}`", "ein Wert des Enums `{name}`", "un valor del enum `{name}`", "enum `{name}`の値";
    by_name_or_number(what): "{what}, by name or number", "{what}, mit Namen oder Nummer", "{what}, por nombre o número", "名前か番号で{what}";
    an_enum_value(): "an enum value", "ein Enum-Wert", "un valor de enum", "enumの値";
    base64(): "bytes in Base64", "Bytes in Base64", "bytes en Base64", "Base64のバイト列";
    number_of(ty): "a number (`{ty}`)", "eine Zahl (`{ty}`)", "un número (`{ty}`)", "数値（`{ty}`）";
    integer_of(ty): "an integer (`{ty}`)", "eine ganze Zahl (`{ty}`)", "un entero (`{ty}`)", "整数（`{ty}`）";
    range_of(ty, least, most): "`{ty}`: {least} to {most}", "`{ty}`: {least} bis {most}", "`{ty}`: {least} a {most}", "`{ty}`: {least}から{most}まで";
    number_held_by(ty): "a number that `{ty}` holds", "eine Zahl, die `{ty}` fasst", "un número que quepa en `{ty}`", "`{ty}`に収まる数値";
    the_end(): "the end", "das Ende", "el final", "終わり";
    ends_message(close): "`{close}`, which ends the message", "`{close}`, das die Nachricht beendet", "`{close}`, que termina el mensaje", "メッセージを終える`{close}`";
    name_of_field(): "the name of a field", "der Name eines Feldes", "el nombre de un campo", "フィールドの名前";
    single_once(): "each single field once", "jedes einzelne Feld einmal", "cada campo simple una vez", "単一のフィールドは一度だけ";
    it_again(): "it again", "noch einmal", "otra vez", "もう一度";
    bracket_after_name(): "`]` after a name", "`]` nach einem Namen", "`]` tras un nombre", "名前の後の`]`";
    name_in_brackets(): "a name in brackets", "ein Name in Klammern", "un nombre entre corchetes", "角括弧の中の名前";
    extensions_of(name): "extensions of `{name}` that are imported", "importierte Erweiterungen von `{name}`", "extensiones importadas de `{name}`", "読み込まれた`{name}`の拡張";
    known_message(): "a message that the schema knows", "eine Nachricht, die das Schema kennt", "un mensaje que el esquema conoce", "スキーマが知るメッセージ";
    to_be_imported(name): "the `.proto` of `{name}` has to be imported", "die `.proto` von `{name}` muss importiert sein", "hay que importar el `.proto` de `{name}`",
        "`{name}`の`.proto`を読み込む必要があります";
    brace_and_fields(): "`{{` and the fields of a message", "`{{` und die Felder einer Nachricht", "`{{` y los campos de un mensaje", "`{{`とメッセージのフィールド";
    brace_and_fields_of(name): "`{{` and the fields of `{name}`", "`{{` und die Felder von `{name}`", "`{{` y los campos de `{name}`", "`{{`と`{name}`のフィールド";
    colon_after(name): "`:` after `{name}`", "`:` nach `{name}`", "`:` tras `{name}`", "`{name}`の後の`:`";
    one_value(name): "one value: `{name}` is no list", "ein Wert: `{name}` ist keine Liste", "un valor: `{name}` no es una lista", "値は一つ: `{name}`はリストではありません";
    comma_or_bracket(): "`,` or `]`", "`,` oder `]`", "`,` o `]`", "`,`または`]`";
    quoted_text(): "text in quotes", "Text in Anführungszeichen", "texto entre comillas", "引用符で囲んだ文字列";
    quoted_bytes(): "bytes in quotes", "Bytes in Anführungszeichen", "bytes entre comillas", "引用符で囲んだバイト列";
    integer_between(least, most, ty): "an integer from {least} to {most} (`{ty}`)", "eine ganze Zahl von {least} bis {most} (`{ty}`)", "un entero de {least} a {most} (`{ty}`)",
        "{least}から{most}までの整数（`{ty}`）";
    end_of_value(): "the end of a value", "das Ende eines Werts", "el final de un valor", "値の終わり";
    wire_of(word, bits): "{word} ({bits})", "{word} ({bits})", "{word} ({bits})", "{word}（{bits}）";
    wire_type_for(word, bits, ty): "wire type {word} ({bits}) for `{ty}`", "Wire-Typ {word} ({bits}) für `{ty}`", "tipo de cable {word} ({bits}) para `{ty}`", "`{ty}`のワイヤ型{word}（{bits}）";
    values_looked_at(count): "at most {count} values in a message that is looked at closely", "höchstens {count} Werte in einer Nachricht, die genau angesehen wird",
        "como máximo {count} valores en un mensaje que se mira de cerca", "詳しく調べるメッセージの値は{count}個以下";
    rest_of_value(): "the rest of a value", "der Rest eines Werts", "el resto de un valor", "値の残り";
    end_after(bytes): "the end after {bytes}", "das Ende nach {bytes}", "el final tras {bytes}", "{bytes}の後の終わり";
    short_varint(): "a varint of at most ten bytes and 64 bits", "ein Varint von höchstens zehn Bytes und 64 Bits", "un varint de diez bytes y 64 bits como máximo", "10バイト、64ビット以下のvarint";
    longer_one(): "a longer one", "ein längeres", "uno más largo", "もっと長いもの";
    wire_types(): "a wire type from 0 to 5", "ein Wire-Typ von 0 bis 5", "un tipo de cable de 0 a 5", "0から5までのワイヤ型";
    field_numbers(most): "a field number from 1 to {most}", "eine Feldnummer von 1 bis {most}", "un número de campo de 1 a {most}", "1から{most}までのフィールド番号";
    announced(bytes): "the {bytes} that are announced", "die angekündigten {bytes}", "los {bytes} anunciados", "予告された{bytes}";
    to_the_end(bytes): "{bytes} to the end", "{bytes} bis zum Ende", "{bytes} hasta el final", "終わりまで{bytes}";
    end_of_open_group(): "the end of the group that is open", "das Ende der offenen Gruppe", "el final del grupo abierto", "開いているグループの終わり";
    end_of_a_group(number): "the end of a group with the number {number}", "das Ende einer Gruppe mit der Nummer {number}", "el final de un grupo con el número {number}", "番号{number}のグループの終わり";
    end_of_the_group(number): "the end of the group with the number {number}", "das Ende der Gruppe mit der Nummer {number}", "el final del grupo con el número {number}", "番号{number}のグループの終わり";
    rfc3339_time(): "a time as RFC 3339 has it, with a zone (`2026-04-02T06:00:00Z`)", "eine Zeit nach RFC 3339, mit Zone (`2026-04-02T06:00:00Z`)",
        "una hora según RFC 3339, con zona (`2026-04-02T06:00:00Z`)", "RFC 3339の時間帯付き時刻（`2026-04-02T06:00:00Z`）";
    years(): "a time in the years 1 to 9999", "eine Zeit in den Jahren 1 bis 9999", "una hora en los años 1 a 9999", "1年から9999年までの時刻";
    seconds_text(): "a duration in seconds (`\"1.5s\"`)", "eine Dauer in Sekunden (`\"1.5s\"`)", "una duración en segundos (`\"1.5s\"`)", "秒で表した期間（`\"1.5s\"`）";
    paths_text(): "paths with commas between them, as one string", "Pfade mit Kommas dazwischen, als eine Zeichenkette", "rutas separadas por comas, en una cadena", "コンマで区切ったパスの文字列";
    camel_paths(): "paths in lowerCamelCase", "Pfade in lowerCamelCase", "rutas en lowerCamelCase", "lowerCamelCaseのパス";
    array_for(name): "an array (`{name}`)", "ein Array (`{name}`)", "un array (`{name}`)", "配列（`{name}`）";
    any_object(): "an object with `@type` (`google.protobuf.Any`)", "ein Objekt mit `@type` (`google.protobuf.Any`)", "un objeto con `@type` (`google.protobuf.Any`)", "`@type`のあるオブジェクト（`google.protobuf.Any`）";
    type_inside(): "`@type`, which says what is inside", "`@type`, das sagt, was darin ist", "`@type`, que dice qué hay dentro", "中身を示す`@type`";
    value_which_has(name): "`value`, which has the `{name}`", "`value`, das `{name}` enthält", "`value`, que tiene el `{name}`", "`{name}`を持つ`value`";
    a_message(): "a message", "eine Nachricht", "un mensaje", "メッセージ";
}
