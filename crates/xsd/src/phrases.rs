//! What findings of XML documents say, in all of Mervik's languages.

mervik_document::phrases! {
    /// Phrases about elements, attributes and types.
    pub(crate) trait Phrases;
    places_of_model(count): "at most {count} places that the content may be in at once", "höchstens {count} Stellen, an denen der Inhalt zugleich sein kann",
        "como máximo {count} lugares en los que el contenido puede estar a la vez", "内容が同時に取りうる位置は{count}以下";
    no_namespace(): "no namespace", "kein Namensraum", "ningún espacio de nombres", "名前空間なし";
    namespace(uri): "the namespace `{uri}`", "der Namensraum `{uri}`", "el espacio de nombres `{uri}`", "名前空間`{uri}`";
    root_not_declared(root): "the root `{root}`, which the schema does not declare", "die Wurzel `{root}`, die das Schema nicht deklariert",
        "la raíz `{root}`, que el esquema no declara", "スキーマが宣言していないルート`{root}`";
    no_root(): "a root, of which the schema declares none", "eine Wurzel, von denen das Schema keine deklariert",
        "una raíz, de las que el esquema no declara ninguna", "ルート（スキーマには宣言がありません）";
    as_root(names): "{names} as the root", "{names} als Wurzel", "{names} como raíz", "ルートとして{names}";
    default_in_the_way(): "a default namespace is in the way: `xmlns=\"\"` takes it off", "ein Standard-Namensraum ist im Weg: `xmlns=\"\"` nimmt ihn weg",
        "un espacio de nombres por defecto estorba: `xmlns=\"\"` lo quita", "既定の名前空間が妨げています: `xmlns=\"\"`で外せます";
    says_so(tag): "`{tag}` says so", "`{tag}` sagt das", "`{tag}` lo dice", "`{tag}`でそう書けます";
    declared_elsewhere(name, there, here, way): "`{name}` is declared in {there}, and is here in {here}; {way}",
        "`{name}` ist deklariert in: {there}; hier steht es in: {here}; {way}", "`{name}` está declarado en {there}, y aquí está en {here}; {way}",
        "`{name}`は{there}で宣言されていますが、ここでは{here}です。{way}";
    any_element(): "any element", "irgendein Element", "cualquier elemento", "任意の要素";
    element_of_a_namespace(): "an element of a namespace", "ein Element mit Namensraum", "un elemento con espacio de nombres", "名前空間のある要素";
    element_not_of(uri): "an element of a namespace other than `{uri}`", "ein Element eines anderen Namensraums als `{uri}`",
        "un elemento de un espacio de nombres distinto de `{uri}`", "`{uri}`以外の名前空間の要素";
    element_of(namespaces): "an element of {namespaces}", "ein Element aus: {namespaces}", "un elemento de {namespaces}", "{namespaces}の要素";
    end_of_element(): "the end of the element", "das Ende des Elements", "el final del elemento", "要素の終わり";
    before(names, found): "{names} before {found}", "{names} vor {found}", "{names} antes de {found}", "{found}の前に{names}";
    no_more_elements(): "no more elements", "keine weiteren Elemente", "ningún elemento más", "これ以上の要素なし";
    here(names): "{names} here", "{names} an dieser Stelle", "{names} aquí", "ここに{names}";
    could_come(names): "{names} could come here", "{names} könnten hier stehen", "{names} podrían venir aquí", "ここには{names}が置けます";
    place_earlier(name): "`{name}` has its place earlier, or not so often", "`{name}` hat seinen Platz früher, oder nicht so oft",
        "`{name}` tiene su lugar antes, o no tantas veces", "`{name}`の場所はもっと前か、回数が多すぎます";
    place_elsewhere(name): "`{name}` has its place elsewhere in this element", "`{name}` hat seinen Platz anderswo in diesem Element",
        "`{name}` tiene su lugar en otra parte de este elemento", "`{name}`の場所はこの要素の中の別の所です";
    none(): "none", "keines", "ninguno", "なし";
    never_comes(): "something that can never come", "etwas, das nie kommen kann", "algo que nunca puede venir", "決して現れないもの";
    before_end(names, element): "{names} before the end of `{element}`", "{names} vor dem Ende von `{element}`", "{names} antes del final de `{element}`",
        "`{element}`の終わりの前に{names}";
    ends_too_early(): "the content ends too early", "der Inhalt endet zu früh", "el contenido termina demasiado pronto", "内容が早く終わりすぎています";
    and_no_elements(what): "{what} and no elements", "{what} und keine Elemente", "{what} y ningún elemento", "{what}だけで要素なし";
    no_content(): "no content at all", "gar kein Inhalt", "ningún contenido", "内容が一切ないこと";
    elements_only(): "elements only, and no text between them", "nur Elemente, und kein Text dazwischen", "solo elementos, sin texto entre ellos",
        "要素のみ、間に文字なし";
    white_space(): "white space", "Leerraum", "espacio en blanco", "空白";
    element_declared_in(namespace): "an element that the schema declares in {namespace}", "ein Element, das das Schema deklariert, aus: {namespace}",
        "un elemento que el esquema declara en {namespace}", "スキーマが{namespace}で宣言している要素";
    prefix_not_declared(prefix): "the prefix `{prefix}` is not declared", "das Präfix `{prefix}` ist nicht deklariert", "el prefijo `{prefix}` no está declarado",
        "接頭辞`{prefix}`が宣言されていません";
    no_type_of(name, namespace): "`{name}` is not a type of {namespace}", "`{name}` ist kein Typ aus: {namespace}", "`{name}` no es un tipo de {namespace}",
        "`{name}`は{namespace}の型ではありません";
    name_of_type(): "the name of a type of the schema", "der Name eines Typs des Schemas", "el nombre de un tipo del esquema", "スキーマの型の名前";
    derived_from(base): "a type derived from `{base}`", "ein von `{base}` abgeleiteter Typ", "un tipo derivado de `{base}`", "`{base}`から派生した型";
    blocks(name): "`{name}` blocks the way in which it is derived", "`{name}` sperrt die Art, in der er abgeleitet ist",
        "`{name}` bloquea la forma en que se deriva", "`{name}`はその派生方法を禁じています";
    there_is(names): "there is {names}", "es gibt {names}", "hay {names}", "{names}があります";
    in_place_of(what, name): "{what} in the place of `{name}`, which is abstract", "{what} anstelle von `{name}`, das abstrakt ist",
        "{what} en lugar de `{name}`, que es abstracto", "抽象である`{name}`の代わりに{what}";
    an_element(): "an element", "ein Element", "un elemento", "要素";
    derived_from_abstract(name): "a type derived from `{name}`, which is abstract", "ein von `{name}`, der abstrakt ist, abgeleiteter Typ",
        "un tipo derivado de `{name}`, que es abstracto", "抽象である`{name}`から派生した型";
    name_by_type(names, name): "`xsi:type` to name {names}, for `{name}` is abstract", "`xsi:type` mit {names}, denn `{name}` ist abstrakt",
        "que `xsi:type` nombre {names}, porque `{name}` es abstracto", "`{name}`は抽象なので、`xsi:type`で{names}を指定すること";
    nil_has_none(): "no content, for `xsi:nil` is `true`", "kein Inhalt, denn `xsi:nil` ist `true`", "ningún contenido, porque `xsi:nil` es `true`",
        "`xsi:nil`が`true`なので内容なし";
    text(): "text", "Text", "texto", "文字列";
    no_nil_on(name): "no `xsi:nil` on `{name}`, which is not nillable", "kein `xsi:nil` an `{name}`, das nicht nillable ist",
        "ningún `xsi:nil` en `{name}`, que no es nillable", "nillableでない`{name}`に`xsi:nil`がないこと";
    fixed_value(name): "a value of `{name}`, which is fixed", "ein Wert von `{name}`, der fest ist", "un valor de `{name}`, que es fijo", "固定されている`{name}`の値";
    fixed_to(value, name): "`{value}`, to which `{name}` is fixed", "`{value}`, worauf `{name}` festgelegt ist", "`{value}`, a lo que `{name}` está fijado",
        "`{name}`に固定されている`{value}`";
    fixed_no_elements(value, name): "`{value}` and no elements, for `{name}` is fixed", "`{value}` und keine Elemente, denn `{name}` ist festgelegt",
        "`{value}` y ningún elemento, porque `{name}` es fijo", "`{name}`は固定なので`{value}`のみで要素なし";
    elements(): "elements", "Elemente", "elementos", "要素";
    unique_identifier(): "an identifier that nothing else has", "ein Bezeichner, den nichts anderes hat", "un identificador que nada más tiene", "他にない識別子";
    identifier_reference(): "a reference to an identifier of the document", "ein Verweis auf einen Bezeichner des Dokuments",
        "una referencia a un identificador del documento", "文書内の識別子への参照";
    entity_name(): "the name of an unparsed entity of the document", "der Name einer nicht geparsten Entität des Dokuments",
        "el nombre de una entidad no analizada del documento", "文書の非解析実体の名前";
    no_attributes(): "no attributes here", "hier keine Attribute", "ningún atributo aquí", "ここに属性なし";
    no_more_attributes(): "no more attributes here", "hier keine weiteren Attribute", "ningún atributo más aquí", "ここにこれ以上の属性なし";
    no_prefix(name): "`{name}` has no prefix there", "`{name}` hat dort kein Präfix", "`{name}` no lleva prefijo ahí", "`{name}`には接頭辞がありません";
    may_be_meant(name): "`{name}` may be meant for it", "`{name}` könnte gemeint sein", "quizá se quiso decir `{name}`", "`{name}`のことかもしれません";
    attribute_on(name, element): "the attribute `{name}` on `{element}`", "das Attribut `{name}` an `{element}`", "el atributo `{name}` en `{element}`",
        "`{element}`の属性`{name}`";
    declared_attribute(): "an attribute that the schema declares", "ein Attribut, das das Schema deklariert", "un atributo que el esquema declara",
        "スキーマが宣言している属性";
    one_id(): "one attribute of type `xs:ID`", "ein Attribut vom Typ `xs:ID`", "un atributo de tipo `xs:ID`", "`xs:ID`型の属性は一つ";
    too(name): "{name} too", "auch {name}", "también {name}", "{name}も";
    key_called(kind, name): "the {kind} `{name}`", "`{name}` ({kind})", "`{name}` ({kind})", "`{name}`（{kind}）";
    one_field(field, key): "one {field} for {key}", "ein {field} für {key}", "un {field} para {key}", "{key}のための{field}は一つ";
    several(): "several", "mehrere", "varios", "複数";
    text_alone(field, key): "text alone in {field} for {key}", "nur Text in {field} für {key}", "solo texto en {field} para {key}", "{key}のための{field}は文字列のみ";
    not_nillable(field, key): "a field that is not nillable, {field}, for {key}", "ein Feld, das nicht nillable ist, {field}, für {key}",
        "un campo no nillable, {field}, para {key}", "{key}のためのnillableでないフィールド{field}";
    one_that_is(): "one that is", "eines, das es ist", "uno que lo es", "nillableなフィールド";
    field_for(field, key): "{field} for {key}", "{field} für {key}", "{field} para {key}", "{key}のための{field}";
    nothing_else_has(fields, key): "{fields} that nothing else has, for {key}", "{fields}, wie nichts anderes es hat, für {key}",
        "{fields} que nada más tenga, para {key}", "{key}のために他と重ならない{fields}";
    line_has_first(line): "line {line} has it first", "Zeile {line} hat es zuerst", "la línea {line} lo tiene primero", "最初に{line}行目にあります";
    what_it_refers_to(): "what it refers to", "das, worauf es verweist", "aquello a lo que se refiere", "参照先";
    value_there_for(target, key): "a value that is there for {target}, as {key} asks", "ein Wert, den es für {target} gibt, wie {key} es verlangt",
        "un valor que exista para {target}, como pide {key}", "{key}が求める{target}にある値";
    such_as(kind, name, example): "{kind} (`xs:{name}`), such as `{example}`", "{kind} (`xs:{name}`), etwa `{example}`", "{kind} (`xs:{name}`), como `{example}`",
        "{kind}（`xs:{name}`）、例: `{example}`";
    list_of(item): "a list of items, each {item}", "eine Liste, jedes Element {item}", "una lista de elementos, cada uno {item}", "それぞれが{item}のリスト";
    true_or_false(): "true or false", "wahr oder falsch", "verdadero o falso", "真偽値";
    a_decimal(): "a decimal number", "eine Dezimalzahl", "un número decimal", "十進数";
    a_span(): "a span of time", "eine Zeitspanne", "un lapso de tiempo", "期間";
    a_moment(): "a date and a time", "ein Datum und eine Zeit", "una fecha y una hora", "日時";
    a_time_of_day(): "a time of day", "eine Uhrzeit", "una hora del día", "時刻";
    a_day(): "a date", "ein Datum", "una fecha", "日付";
    month_of_year(): "a month of a year", "ein Monat eines Jahres", "un mes de un año", "年月";
    a_year(): "a year", "ein Jahr", "un año", "年";
    day_of_year(): "a day of the year", "ein Tag des Jahres", "un día del año", "月日";
    day_of_month(): "a day of the month", "ein Tag des Monats", "un día del mes", "日";
    a_month(): "a month", "ein Monat", "un mes", "月";
    hex_bytes(): "bytes in hexadecimal digits", "Bytes in hexadezimalen Ziffern", "bytes en dígitos hexadecimales", "16進数のバイト列";
    base64_bytes(): "bytes in base 64", "Bytes in Base 64", "bytes en base 64", "Base64のバイト列";
    a_reference(): "a reference to a resource", "ein Verweis auf eine Ressource", "una referencia a un recurso", "リソースへの参照";
    prefixed_name(): "a name with a declared prefix", "ein Name mit deklariertem Präfix", "un nombre con prefijo declarado", "宣言された接頭辞の付いた名前";
    language_tag(): "the tag of a language", "das Kennzeichen einer Sprache", "la etiqueta de un idioma", "言語タグ";
    a_name(): "a name", "ein Name", "un nombre", "名前";
    name_token(): "a token of name characters", "ein Token aus Namenszeichen", "un token de caracteres de nombre", "名前文字のトークン";
    list_of_names(): "a list of names", "eine Liste von Namen", "una lista de nombres", "名前のリスト";
    whole_number(): "a whole number", "eine ganze Zahl", "un número entero", "整数";
    whole_from_0(): "a whole number from 0", "eine ganze Zahl ab 0", "un número entero desde 0", "0以上の整数";
    whole_from_1(): "a whole number from 1", "eine ganze Zahl ab 1", "un número entero desde 1", "1以上の整数";
    whole_to_0(): "a whole number up to 0", "eine ganze Zahl bis 0", "un número entero hasta 0", "0以下の整数";
    whole_below_0(): "a whole number below 0", "eine ganze Zahl unter 0", "un número entero menor que 0", "0未満の整数";
    item_of_list(number): "it is item {number} of the list", "es ist Element {number} der Liste", "es el elemento {number} de la lista", "リストの{number}番目です";
    name_with_prefix(): "a name whose prefix is declared", "ein Name, dessen Präfix deklariert ist", "un nombre cuyo prefijo esté declarado", "接頭辞が宣言された名前";
    declares_it(declaration): "`{declaration}` declares it", "`{declaration}` deklariert es", "`{declaration}` lo declara", "`{declaration}`で宣言できます";
    with_count(found, count): "{found}, {count}", "{found}, {count}", "{found}, {count}", "{found}、{count}";
    takes(name, what): "{name} takes {what}", "{name} nimmt {what}", "{name} admite {what}", "{name}に合うのは{what}";
    value_of_type(): "a value of its type", "ein Wert seines Typs", "un valor de su tipo", "型に合う値";
    exactly(count): "exactly {count}", "genau {count}", "exactamente {count}", "ちょうど{count}";
    after_point(digits): "{digits} after the point", "{digits} nach dem Punkt", "{digits} tras el punto", "小数点以下{digits}";
    other_white_space(): "other white space", "anderer Leerraum", "otro espacio en blanco", "別の空白";
    the_form(patterns): "the form {patterns}", "die Form {patterns}", "la forma {patterns}", "形式{patterns}";
    one_of_values(count, some): "one of {count} values: {some}, …", "einer von {count} Werten: {some}, …", "uno de {count} valores: {some}, …",
        "{count}個の値のいずれか: {some}など";
    point_before_fraction(): "a point stands before the fraction, and nothing between thousands", "vor den Nachkommastellen steht ein Punkt, zwischen Tausendern nichts",
        "un punto va antes de los decimales, y nada entre los millares", "小数点は点で、千の位の区切りは書きません";
    no_exponent(): "decimal numbers have no exponent; `xs:double` has", "Dezimalzahlen haben keinen Exponenten; `xs:double` hat einen",
        "los números decimales no llevan exponente; `xs:double` sí", "十進数に指数はありません。`xs:double`にはあります";
    small_letters(word): "`{word}` is spelled in small letters", "`{word}` wird klein geschrieben", "`{word}` se escribe en minúsculas", "`{word}`は小文字で書きます";
    infinity(): "infinity is spelled `INF` or `-INF`", "unendlich schreibt man `INF` oder `-INF`", "infinito se escribe `INF` o `-INF`", "無限大は`INF`または`-INF`と書きます";
    t_between(): "a `T` stands between date and time", "zwischen Datum und Zeit steht ein `T`", "entre fecha y hora va una `T`", "日付と時刻の間は`T`です";
    time_missing(): "the time is missing: `T00:00:00`", "die Zeit fehlt: `T00:00:00`", "falta la hora: `T00:00:00`", "時刻がありません: `T00:00:00`";
    date_has_no_time(): "a date has no time; `xs:dateTime` has", "ein Datum hat keine Zeit; `xs:dateTime` hat eine", "una fecha no lleva hora; `xs:dateTime` sí",
        "日付に時刻はありません。`xs:dateTime`にはあります";
    order_of_date(): "year, month and day come in that order, with `-` between them", "Jahr, Monat und Tag in dieser Reihenfolge, mit `-` dazwischen",
        "año, mes y día en ese orden, con `-` entre ellos", "年、月、日の順に`-`でつなぎます";
}
