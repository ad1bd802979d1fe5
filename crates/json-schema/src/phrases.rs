//! What findings of JSON Schemas say, in all of Mervik's languages.

mervik_document::phrases! {
    /// Phrases about keywords.
    pub(crate) trait Phrases;
    property(name): "the property `{name}`", "die Eigenschaft `{name}`", "la propiedad `{name}`", "プロパティ`{name}`";
    must_have_property(name): "must have the property `{name}`", "muss die Eigenschaft `{name}` haben",
        "debe tener la propiedad `{name}`", "プロパティ`{name}`が必要です";
    must_have_since(name, present): "must have the property `{name}`, since `{present}` is there",
        "muss die Eigenschaft `{name}` haben, weil `{present}` da ist",
        "debe tener la propiedad `{name}`, porque está `{present}`", "`{present}`があるので、プロパティ`{name}`が必要です";
    no_such_property(): "no such property", "keine solche Eigenschaft", "ninguna propiedad así", "該当するプロパティなし";
    no_such_but(near): "no such property, but `{near}`", "keine solche Eigenschaft, aber `{near}`",
        "ninguna propiedad así, pero sí `{near}`", "該当するプロパティはなく、`{near}`があります";
    misspelled(near): "`{near}` is there: a misspelling?", "`{near}` ist da: ein Schreibfehler?",
        "está `{near}`: ¿un error de escritura?", "`{near}`があります。書き間違いではありませんか";
    not_allowed(name): "the property `{name}` is not allowed", "die Eigenschaft `{name}` ist nicht erlaubt",
        "la propiedad `{name}` no está permitida", "プロパティ`{name}`は許されません";
    undescribed(message): "{message}: nothing that holds here describes it", "{message}: nichts, was hier gilt, beschreibt sie",
        "{message}: nada de lo que rige aquí la describe", "{message}。ここで有効な記述のどれにも該当しません";
    no_value_here(found): "no value is allowed here, found {found}", "hier ist kein Wert erlaubt, gefunden: {found}",
        "aquí no se permite ningún valor; se encontró {found}", "ここに値は置けません（実際は{found}）";
    no_value(): "no value", "kein Wert", "ningún valor", "値なし";
    nothing_here(): "no value here", "hier kein Wert", "ningún valor aquí", "ここに値なし";
    one_of_properties(names): "one of the properties {names}", "eine der Eigenschaften {names}", "una de las propiedades {names}",
        "プロパティ{names}のいずれか";
    one_of_known(count): "one of the {count} known properties", "eine der {count} bekannten Eigenschaften",
        "una de las {count} propiedades conocidas", "既知の{count}個のプロパティのいずれか";
    only_described(): "no property that nothing describes", "keine Eigenschaft, die nichts beschreibt",
        "ninguna propiedad que nada describa", "記述のないプロパティなし";
    none_but(names): "no property but {names}", "keine Eigenschaft außer {names}", "ninguna propiedad salvo {names}",
        "{names}以外のプロパティなし";
    described_here(names): "described here: {names}", "hier beschrieben: {names}", "descritas aquí: {names}", "ここで記述されているもの: {names}";
    equal_items(first, second): "items {first} and {second} are equal", "die Elemente {first} und {second} sind gleich",
        "los elementos {first} y {second} son iguales", "要素{first}と{second}が同じです";
    must_differ(equal): "must have items that differ, but {equal} (counted from 0)",
        "muss verschiedene Elemente haben, aber {equal} (von 0 an gezählt)",
        "debe tener elementos distintos, pero {equal} (contados desde 0)", "要素は互いに異ならなければなりませんが、{equal}（0から数えて）";
    as_contains(): "as `contains` describes", "wie `contains` es beschreibt", "como describe `contains`", "`contains`の記述に合うもの";
    as_not(): "as `not` describes", "wie `not` es beschreibt", "como describe `not`", "`not`の記述に合うもの";
    items_that_are(count, what): "{count} that is {what}", "{count} dieser Art: {what}", "{count} de este tipo: {what}", "{what}に合う{count}";
    so_many_of(matching, items): "{matching} of {items}", "{matching} von {items}", "{matching} de {items}", "{items}個のうち{matching}個";
    chooses(name, expected, found): "`{name}` chooses the branch and must be {expected}, found {found}",
        "`{name}` wählt den Zweig und muss {expected} sein, gefunden: {found}",
        "`{name}` elige la rama y debe ser {expected}; se encontró {found}", "`{name}`は分岐を選ぶもので、{expected}でなければなりません（実際は{found}）";
    one_branch(): "one branch of `oneOf` alone to match", "dass ein Zweig von `oneOf` allein passt",
        "que coincida una sola rama de `oneOf`", "`oneOf`の分岐がただ一つ合うこと";
    all_match(branches): "{branches} match", "{branches} passen", "coinciden {branches}", "{branches}が合います";
    must_match_one(found): "must match one branch of `oneOf` alone, but {found}", "muss auf einen Zweig von `oneOf` allein passen, aber {found}",
        "debe coincidir con una sola rama de `oneOf`, pero {found}", "`oneOf`の分岐のただ一つに合わなければなりませんが、{found}";
    named_so(name, what): "{name} ({what})", "{name} ({what})", "{name} ({what})", "{name}（{what}）";
    in_branch(name): " (in {name})", " (in {name})", " (en {name})", "（{name}内）";
    in_nearest(name): " (in {name}, the nearest)", " (in {name}, dem nächsten)", " (en {name}, la más cercana)", "（最も近い{name}内）";
    in_chosen(name, tag): " (in {name}, chosen by `{tag}`)", " (in {name}, gewählt von `{tag}`)", " (en {name}, elegida por `{tag}`)",
        "（`{tag}`が選ぶ{name}内）";
    in_chosen_by(name, tag, value): " (in {name}, chosen by `{tag}` {value})", " (in {name}, gewählt von `{tag}` {value})",
        " (en {name}, elegida por `{tag}` {value})", "（`{tag}` {value}が選ぶ{name}内）";
    branch(number): "branch {number}", "Zweig {number}", "rama {number}", "分岐{number}";
    branch_called(name): "branch `{name}`", "Zweig `{name}`", "rama `{name}`", "分岐`{name}`";
    matching_string(pattern): "a string that matches `{pattern}`", "eine Zeichenkette, die auf `{pattern}` passt",
        "una cadena que coincide con `{pattern}`", "`{pattern}`に一致する文字列";
    anything_but(what): "anything but {what}", "alles außer {what}", "cualquier cosa salvo {what}", "{what}以外";
    must_not_be(what, found): "must not be {what}, found {found}", "darf nicht {what} sein, gefunden: {found}",
        "no debe ser {what}; se encontró {found}", "{what}であってはなりません（実際は{found}）";
    must_hold(what, found): "must hold {what}, found {found}", "muss {what} enthalten, gefunden: {found}",
        "debe contener {what}; se encontró {found}", "{what}を含まなければなりません（実際は{found}）";
    deprecated(): "is deprecated: it may go in a later version", "ist veraltet: in einer späteren Version kann es fehlen",
        "está obsoleto: puede faltar en una versión posterior", "非推奨です。将来の版でなくなる可能性があります";
    request(): "a request", "einer Anfrage", "una petición", "要求";
    response(): "a response", "einer Antwort", "una respuesta", "応答";
    nothing_in(way): "nothing here in {way}", "hier nichts in {way}", "nada aquí en {way}", "{way}ではここに何もないこと";
    owner_writes(way): "must not be in {way}: the owner of the data alone writes it", "darf nicht in {way} stehen: nur der Eigentümer der Daten schreibt es",
        "no debe estar en {way}: solo el dueño de los datos lo escribe", "{way}に含めてはなりません。データの所有者だけが書き込みます";
    owner_keeps(way): "must not be in {way}: the owner of the data keeps it to himself", "darf nicht in {way} stehen: der Eigentümer der Daten behält es für sich",
        "no debe estar en {way}: el dueño de los datos se lo reserva", "{way}に含めてはなりません。データの所有者だけのものです";
    and_more(found, more): "{found}; and {more} more", "{found}; und {more} weitere", "{found}; y {more} más", "{found}、他{more}件";
    length_in(length, value): "{length} in {value}", "{length} in {value}", "{length} en {value}", "{value}は{length}";
    quotes_make_string(): "the quotes make it a string", "die Anführungszeichen machen es zur Zeichenkette",
        "las comillas lo convierten en una cadena", "引用符があるので文字列です";
    twice(name): "the name `{name}` stands twice in one object", "der Name `{name}` steht zweimal in einem Objekt",
        "el nombre `{name}` está dos veces en un objeto", "名前`{name}`が一つのオブジェクトに二度あります";
    first_or_last(place): "readers keep the first or the last of them; the first is {place}",
        "Leser behalten den ersten oder den letzten davon; der erste steht {place}",
        "los lectores conservan el primero o el último; el primero está {place}", "読み手によって最初のものか最後のものが残ります。最初のものは{place}です";
    in_column(column): "in column {column}", "in Spalte {column}", "en la columna {column}", "{column}列目";
    lines_above(lines, column): "{lines} above, in column {column}", "{lines} darüber, in Spalte {column}", "{lines} más arriba, en la columna {column}",
        "{lines}上の{column}列目";
    too_much(bound): "the check needs more than it may take: {bound}", "die Prüfung braucht mehr, als sie darf: {bound}",
        "la comprobación necesita más de lo permitido: {bound}", "検査が許された量を超えます: {bound}";
    schemas_inside(count): "at most {count} schemas inside one another", "höchstens {count} Schemas ineinander", "como máximo {count} esquemas anidados",
        "入れ子のスキーマは{count}個以下";
    steps_of_pattern(count): "at most {count} steps for a pattern", "höchstens {count} Schritte für ein Muster", "como máximo {count} pasos por patrón",
        "一つのパターンにつき{count}ステップ以下";
    first_findings(count): "only the first {count} findings are told", "nur die ersten {count} Befunde werden gesagt",
        "solo se dicen los primeros {count} hallazgos", "最初の{count}件の指摘だけを示します";
    endless(): "the schema may recurse without end, or the document nest too deep for it",
        "das Schema kann sich endlos wiederholen, oder das Dokument ist zu tief verschachtelt",
        "el esquema puede repetirse sin fin, o el documento estar demasiado anidado", "スキーマが際限なく繰り返すか、文書の入れ子が深すぎます";
    slow_pattern(): "a pattern with look-around or back-references may take very long on a text that nearly matches",
        "ein Muster mit Lookaround oder Rückverweisen kann bei fast passendem Text sehr lange brauchen",
        "un patrón con aserciones o referencias atrás puede tardar mucho con un texto que casi coincide", "前後参照や後方参照のあるパターンは、ほぼ一致する文で非常に時間がかかることがあります";
    untold(): "there are more, which are not told", "es gibt mehr, die nicht gesagt werden", "hay más, que no se dicen", "示されていないものがまだあります";
    object_with(what): "an object with {what}", "ein Objekt mit {what}", "un objeto con {what}", "{what}のあるオブジェクト";
    in_encoding(what, encoding): "{what} in {encoding}", "{what} in {encoding}", "{what} en {encoding}", "{encoding}の{what}";
    accepted_json(): "JSON that `contentSchema` accepts", "JSON, das `contentSchema` annimmt", "JSON que `contentSchema` acepta", "`contentSchema`に合うJSON";
    json(): "JSON", "JSON", "JSON", "JSON";
    bytes(): "bytes", "Bytes", "bytes", "バイト列";
    zone_missing(): "the zone is missing: `Z` or an offset such as `+01:00`", "die Zone fehlt: `Z` oder ein Abstand wie `+01:00`",
        "falta la zona: `Z` o un desfase como `+01:00`", "時間帯がありません: `Z`または`+01:00`のようなずれ";
    t_between(): "`T` must stand between date and time", "zwischen Datum und Zeit muss `T` stehen", "entre fecha y hora debe estar `T`",
        "日付と時刻の間に`T`が必要です";
    space_around(): "there is space around it", "es stehen Leerzeichen darum", "hay espacios alrededor", "前後に空白があります";
    two_names(name, meant): "`{name}` is another name of `{meant}`, which is there too", "`{name}` ist ein anderer Name von `{meant}`, das auch da ist",
        "`{name}` es otro nombre de `{meant}`, que también está", "`{name}`は`{meant}`の別名ですが、`{meant}`もあります";
    under_one_name(): "the property under one name", "die Eigenschaft unter einem Namen", "la propiedad con un solo nombre", "一つの名前でのプロパティ";
    two_of_its_names(): "two of its names", "zwei ihrer Namen", "dos de sus nombres", "二つの名前";
    leave_one_out(): "whoever sends it should leave one of them out", "wer es sendet, sollte einen davon weglassen", "quien lo envía debería omitir uno", "送信側でどちらか一つを省いてください";
    not_described(name): "the property `{name}` is not described by the schema", "die Eigenschaft `{name}` beschreibt das Schema nicht",
        "el esquema no describe la propiedad `{name}`", "プロパティ`{name}`はスキーマに記述されていません";
    described_property(): "a property that the schema describes", "eine Eigenschaft, die das Schema beschreibt", "una propiedad que el esquema describa", "スキーマに記述されたプロパティ";
    drop_or_keep(): "`--unknown drop` takes such properties away, `--unknown keep` hands them on", "`--unknown drop` nimmt solche Eigenschaften weg, `--unknown keep` gibt sie weiter",
        "`--unknown drop` quita esas propiedades, `--unknown keep` las deja pasar", "`--unknown drop`はそのようなプロパティを取り除き、`--unknown keep`は引き渡します";
    ambiguous(): "more than one branch of the union would fit after as many changes, with different outcomes",
        "mehr als ein Zweig der Vereinigung würde nach gleich vielen Änderungen passen, mit verschiedenen Ergebnissen",
        "más de una rama de la unión encajaría tras el mismo número de cambios, con resultados distintos", "同じ数の変更で合う分岐が複数あり、結果が異なります";
    for_one_branch(): "a value that is meant for one branch", "ein Wert, der für einen Zweig gemeint ist", "un valor destinado a una sola rama", "一つの分岐のための値";
    for_several(): "one that may be meant for several", "einer, der für mehrere gemeint sein kann", "uno que puede valer para varias", "複数の分岐に合いうる値";
    constants_tell(): "a property with a different constant in each branch makes the choice plain", "eine Eigenschaft mit je Zweig verschiedener Konstante macht die Wahl klar",
        "una propiedad con una constante distinta en cada rama aclara la elección", "分岐ごとに異なる定数を持つプロパティがあれば選択は明らかです";
    too_much_work(): "trying out the branches of unions within unions would take too much work", "alle Zweige von Vereinigungen in Vereinigungen zu probieren wäre zu viel Arbeit",
        "probar las ramas de uniones dentro de uniones costaría demasiado", "入れ子の和の分岐を試すには処理が多すぎます";
    fewer_branches(): "fewer branches to try", "weniger Zweige zum Probieren", "menos ramas que probar", "試す分岐がもっと少ないこと";
    a_date_time(): "a date and time with a zone (RFC 3339)", "Datum und Zeit mit Zone (RFC 3339)", "una fecha y hora con zona (RFC 3339)", "時間帯付きの日時（RFC 3339）";
    a_date(): "a date (RFC 3339)", "ein Datum (RFC 3339)", "una fecha (RFC 3339)", "日付（RFC 3339）";
    a_time(): "a time with a zone (RFC 3339)", "eine Zeit mit Zone (RFC 3339)", "una hora con zona (RFC 3339)", "時間帯付きの時刻（RFC 3339）";
    a_duration(): "a duration (RFC 3339, appendix A)", "eine Dauer (RFC 3339, Anhang A)", "una duración (RFC 3339, apéndice A)", "期間（RFC 3339 付録A）";
    an_email(): "an email address (RFC 5321)", "eine E-Mail-Adresse (RFC 5321)", "una dirección de correo (RFC 5321)", "メールアドレス（RFC 5321）";
    an_idn_email(): "an internationalised email address (RFC 6531)", "eine internationalisierte E-Mail-Adresse (RFC 6531)",
        "una dirección de correo internacionalizada (RFC 6531)", "国際化メールアドレス（RFC 6531）";
    a_hostname(): "a host name (RFC 1123)", "ein Hostname (RFC 1123)", "un nombre de host (RFC 1123)", "ホスト名（RFC 1123）";
    an_idn_hostname(): "an internationalised host name (RFC 5890)", "ein internationalisierter Hostname (RFC 5890)",
        "un nombre de host internacionalizado (RFC 5890)", "国際化ホスト名（RFC 5890）";
    an_ipv4(): "an IPv4 address", "eine IPv4-Adresse", "una dirección IPv4", "IPv4アドレス";
    an_ipv6(): "an IPv6 address", "eine IPv6-Adresse", "una dirección IPv6", "IPv6アドレス";
    a_uri(): "a URI with a scheme (RFC 3986)", "ein URI mit Schema (RFC 3986)", "un URI con esquema (RFC 3986)", "スキーム付きのURI（RFC 3986）";
    a_uri_reference(): "a URI reference (RFC 3986)", "ein URI-Verweis (RFC 3986)", "una referencia URI (RFC 3986)", "URI参照（RFC 3986）";
    an_iri(): "an IRI with a scheme (RFC 3987)", "ein IRI mit Schema (RFC 3987)", "un IRI con esquema (RFC 3987)", "スキーム付きのIRI（RFC 3987）";
    an_iri_reference(): "an IRI reference (RFC 3987)", "ein IRI-Verweis (RFC 3987)", "una referencia IRI (RFC 3987)", "IRI参照（RFC 3987）";
    a_uri_template(): "a URI template (RFC 6570)", "eine URI-Vorlage (RFC 6570)", "una plantilla URI (RFC 6570)", "URIテンプレート（RFC 6570）";
    a_uuid(): "a UUID (RFC 4122)", "eine UUID (RFC 4122)", "un UUID (RFC 4122)", "UUID（RFC 4122）";
    a_json_pointer(): "a JSON Pointer (RFC 6901)", "ein JSON Pointer (RFC 6901)", "un JSON Pointer (RFC 6901)", "JSON Pointer（RFC 6901）";
    a_relative_pointer(): "a relative JSON Pointer", "ein relativer JSON Pointer", "un JSON Pointer relativo", "相対JSON Pointer";
    a_regex(): "a regular expression (ECMA-262)", "ein regulärer Ausdruck (ECMA-262)", "una expresión regular (ECMA-262)", "正規表現（ECMA-262）";
    a_version(): "a version (Semantic Versioning 2.0.0)", "eine Version (Semantic Versioning 2.0.0)", "una versión (Semantic Versioning 2.0.0)",
        "バージョン（Semantic Versioning 2.0.0）";
    base64_text(): "Base64 text (RFC 4648)", "Base64-Text (RFC 4648)", "texto Base64 (RFC 4648)", "Base64の文字列（RFC 4648）";
    a_ulid(): "a ULID", "eine ULID", "un ULID", "ULID";
    a_currency(): "a currency code (ISO 4217)", "ein Währungscode (ISO 4217)", "un código de moneda (ISO 4217)", "通貨コード（ISO 4217）";
    a_country(): "a country code (ISO 3166-1)", "ein Ländercode (ISO 3166-1)", "un código de país (ISO 3166-1)", "国コード（ISO 3166-1）";
    a_telephone(): "a telephone number (E.164)", "eine Telefonnummer (E.164)", "un número de teléfono (E.164)", "電話番号（E.164）";
}
