//! What makes a text no XML, in all of Mervik's languages.

mervik_document::phrases! {
    /// Phrases about the grammar of XML.
    pub(crate) trait Phrases;
    bytes_in_token(count): "at most {count} bytes in one token", "höchstens {count} Bytes in einem Token", "como máximo {count} bytes en un token", "一つのトークンは{count}バイト以下";
    end_of_document(): "the end of the document", "das Ende des Dokuments", "el final del documento", "文書の終わり";
    cut_off(): "the document may have been cut off", "das Dokument ist vielleicht abgeschnitten", "el documento puede estar cortado", "文書が途中で切れているかもしれません";
    a_root(): "a root element", "ein Wurzelelement", "un elemento raíz", "ルート要素";
    after_comment(): "`-->` after a comment", "`-->` nach einem Kommentar", "`-->` tras un comentario", "注釈の後の`-->`";
    target(): "the target of a processing instruction", "das Ziel einer Verarbeitungsanweisung", "el destino de una instrucción de proceso", "処理命令の対象";
    declaration_at_start(): "the XML declaration at the very start", "die XML-Deklaration ganz am Anfang", "la declaración XML al principio del todo", "先頭にあるXML宣言";
    one_further_on(): "one further on", "eine weiter hinten", "una más adelante", "もっと後ろのもの";
    nothing_before(): "nothing may stand before it, not even white space", "davor darf nichts stehen, nicht einmal Leerraum", "nada puede ir antes, ni siquiera espacio en blanco",
        "その前には空白も置けません";
    version_1(): "XML version `1.0`", "XML-Version `1.0`", "XML versión `1.0`", "XMLバージョン`1.0`";
    a_version(): "a version in the XML declaration", "eine Version in der XML-Deklaration", "una versión en la declaración XML", "XML宣言のバージョン";
    none(): "none", "keine", "ninguna", "なし";
    after_it(tag): "`{tag}` after it", "`{tag}` danach", "`{tag}` después", "その後に`{tag}`";
    one_root(): "one root element", "ein einziges Wurzelelement", "un solo elemento raíz", "ルート要素は一つ";
    levels(count): "at most {count} levels of nesting", "höchstens {count} Ebenen Verschachtelung", "como máximo {count} niveles de anidamiento", "入れ子は{count}階層以下";
    name_of_element(): "the name of an element", "der Name eines Elements", "el nombre de un elemento", "要素の名前";
    no_end_tag(): "no end tag", "kein End-Tag", "ninguna etiqueta de cierre", "終了タグなし";
    none_open(): "no element of that name is open here", "kein Element dieses Namens ist hier offen", "ningún elemento con ese nombre está abierto aquí", "その名前の要素はここでは開いていません";
    text_without(sign): "text without `{sign}`", "Text ohne `{sign}`", "texto sin `{sign}`", "`{sign}`のない文字列";
    says_it(code): "`{code}` says it", "`{code}` sagt es", "`{code}` lo dice", "`{code}`と書けます";
    only_space_after(): "nothing but white space after the root element", "nach dem Wurzelelement nur Leerraum", "solo espacio en blanco tras el elemento raíz", "ルート要素の後は空白のみ";
    only_space_before(): "nothing but white space before the root element", "vor dem Wurzelelement nur Leerraum", "solo espacio en blanco antes del elemento raíz", "ルート要素の前は空白のみ";
    text_within_root(): "text within the root element", "Text im Wurzelelement", "texto dentro del elemento raíz", "ルート要素の中の文字列";
    cdata_outside(): "`<![CDATA[` outside of it", "`<![CDATA[` außerhalb davon", "`<![CDATA[` fuera de él", "その外の`<![CDATA[`";
    reference_within_root(): "a reference within the root element", "ein Verweis im Wurzelelement", "una referencia dentro del elemento raíz", "ルート要素の中の参照";
    elements_within(reference): "elements that end within `{reference}`", "Elemente, die in `{reference}` enden", "elementos que terminan dentro de `{reference}`", "`{reference}`の中で終わる要素";
    one_that_does_not(): "one that does not", "eines, das es nicht tut", "uno que no", "終わらないもの";
    entities_inside(count): "at most {count} entities inside one another", "höchstens {count} Entitäten ineinander", "como máximo {count} entidades anidadas", "入れ子の実体は{count}個以下";
    bytes_of_entities(count): "at most {count} bytes out of entities", "höchstens {count} Bytes aus Entitäten", "como máximo {count} bytes de entidades", "実体からの展開は{count}バイト以下";
    declared_entity(): "an entity that is declared in the document", "eine Entität, die im Dokument deklariert ist", "una entidad declarada en el documento", "文書内で宣言された実体";
    outside(): "it stands for something outside of the document, which is never read", "sie steht für etwas außerhalb des Dokuments, das nie gelesen wird",
        "representa algo fuera del documento, que nunca se lee", "文書の外を指していますが、それを読むことはありません";
    allowed_character(): "a reference to a character that XML allows", "ein Verweis auf ein Zeichen, das XML erlaubt", "una referencia a un carácter que XML permite", "XMLが許す文字への参照";
    amp_says_it(): "`&amp;` says `&`", "`&amp;` sagt `&`", "`&amp;` representa `&`", "`&`は`&amp;`と書きます";
    one_doctype(): "one document type, before the root element", "ein Dokumenttyp, vor dem Wurzelelement", "un tipo de documento, antes del elemento raíz", "ルート要素の前の文書型宣言は一つ";
    another_one(): "another one", "noch einer", "otro más", "もう一つ";
    no_entities(): "no declarations of entities", "keine Deklarationen von Entitäten", "ninguna declaración de entidades", "実体宣言なし";
    allow_dtd(): "`--allow-dtd` reads those that stay within the document", "`--allow-dtd` liest die, die im Dokument bleiben", "`--allow-dtd` lee las que quedan dentro del documento",
        "`--allow-dtd`なら文書内に収まるものを読みます";
    attributes(count): "at most {count} attributes", "höchstens {count} Attribute", "como máximo {count} atributos", "属性は{count}個以下";
    space_before_attribute(): "white space before an attribute", "Leerraum vor einem Attribut", "espacio en blanco antes de un atributo", "属性の前の空白";
    name_of_attribute(): "the name of an attribute", "der Name eines Attributs", "el nombre de un atributo", "属性の名前";
    each_once(): "each attribute once", "jedes Attribut einmal", "cada atributo una vez", "各属性は一度だけ";
    twice(name): "`{name}` twice", "`{name}` zweimal", "`{name}` dos veces", "`{name}`が二度";
    xml_for_own(): "`xml` for its own namespace, and for no other", "`xml` für seinen eigenen Namensraum, und für keinen anderen", "`xml` para su propio espacio de nombres, y para ningún otro",
        "`xml`はその固有の名前空間だけに";
    no_xmlns(): "no declaration of `xmlns` or of its namespace", "keine Deklaration von `xmlns` oder seines Namensraums", "ninguna declaración de `xmlns` ni de su espacio de nombres", "`xmlns`やその名前空間の宣言なし";
    namespace_for_prefix(): "a namespace for the prefix", "ein Namensraum für das Präfix", "un espacio de nombres para el prefijo", "接頭辞のための名前空間";
    lt_in_value(): "`&lt;` for `<` in the value of an attribute", "`&lt;` für `<` im Wert eines Attributs", "`&lt;` por `<` en el valor de un atributo", "属性値の中の`<`は`&lt;`";
    quote_missing(): "a quote may be missing", "vielleicht fehlt ein Anführungszeichen", "puede faltar una comilla", "引用符が抜けているかもしれません";
    ended_reference(): "a reference that ends in `;`", "ein Verweis, der mit `;` endet", "una referencia que termine en `;`", "`;`で終わる参照";
    declared_prefix(): "a prefix that is declared", "ein deklariertes Präfix", "un prefijo declarado", "宣言された接頭辞";
    declares_it(code): "`{code}` on the element or around it declares it", "`{code}` am Element oder darum herum deklariert es", "`{code}` en el elemento o a su alrededor lo declara",
        "要素かその外側の`{code}`で宣言できます";
    began_here(): "it began here, and the document may have been cut off", "es begann hier, und das Dokument ist vielleicht abgeschnitten",
        "empezó aquí, y el documento puede estar cortado", "ここから始まっており、文書が途中で切れているかもしれません";
    bang_markup(): "`<!--`, `<![CDATA[` or `<!DOCTYPE`", "`<!--`, `<![CDATA[` oder `<!DOCTYPE`", "`<!--`, `<![CDATA[` o `<!DOCTYPE`", "`<!--`、`<![CDATA[`または`<!DOCTYPE`";
    after_cdata(): "`]]>` after `<![CDATA[`", "`]]>` nach `<![CDATA[`", "`]]>` tras `<![CDATA[`", "`<![CDATA[`の後の`]]>`";
    after_doctype(): "`>` after a document type", "`>` nach einem Dokumenttyp", "`>` tras un tipo de documento", "文書型宣言の後の`>`";
    after_instruction(): "`?>` after a processing instruction", "`?>` nach einer Verarbeitungsanweisung", "`?>` tras una instrucción de proceso", "処理命令の後の`?>`";
    after_value(quote): "`{quote}` after the value of an attribute", "`{quote}` nach dem Wert eines Attributs", "`{quote}` tras el valor de un atributo", "属性値の後の`{quote}`";
    after_tag(): "`>` after a tag", "`>` nach einem Tag", "`>` tras una etiqueta", "タグの後の`>`";
    comment_without(): "a comment without `--`", "ein Kommentar ohne `--`", "un comentario sin `--`", "`--`のない注釈";
    well_formed(): "well-formed XML", "wohlgeformtes XML", "XML bien formado", "整形式のXML";
    equals_after_name(): "`=` after the name of an attribute", "`=` nach dem Namen eines Attributs", "`=` tras el nombre de un atributo", "属性名の後の`=`";
    value_of_attribute(): "the value of an attribute", "der Wert eines Attributs", "el valor de un atributo", "属性の値";
    quoted_value(): "a value in quotes", "ein Wert in Anführungszeichen", "un valor entre comillas", "引用符で囲んだ値";
    quote_after_value(): "a quote after the value of an attribute", "ein Anführungszeichen nach dem Wert eines Attributs", "una comilla tras el valor de un atributo", "属性値の後の引用符";
    end_of_tag(): "the end of the tag", "das Ende des Tags", "el final de la etiqueta", "タグの終わり";
    other_encoding(): "the text may be in another encoding than it says, or cut off", "der Text ist vielleicht in einer anderen Kodierung, als er sagt, oder abgeschnitten",
        "el texto puede estar en otra codificación que la que dice, o cortado", "テキストは宣言と別の符号化か、途中で切れているかもしれません";
    character(code): "the character U+{code}", "das Zeichen U+{code}", "el carácter U+{code}", "文字U+{code}";
    allowed_characters(): "characters that XML allows", "Zeichen, die XML erlaubt", "caracteres que XML permite", "XMLが許す文字";
    known_encoding(): "UTF-8, UTF-16 or an encoding that the Encoding Standard names", "UTF-8, UTF-16 oder eine Kodierung, die der Encoding Standard nennt",
        "UTF-8, UTF-16 o una codificación que nombre el Encoding Standard", "UTF-8、UTF-16、またはEncoding Standardにある符号化";
    named_by_declaration(name): "{name}, which the declaration names", "{name}, das die Deklaration nennt", "{name}, que nombra la declaración", "宣言にある{name}";
    single_bytes(): "a declaration in single bytes", "eine Deklaration in einzelnen Bytes", "una declaración en bytes sueltos", "1バイト単位の宣言";
    was_converted(): "the file was converted and its declaration was not", "die Datei wurde umgewandelt, ihre Deklaration nicht", "el fichero se convirtió y su declaración no", "ファイルは変換されましたが、宣言は変わっていません";
    more_than_fits(): "more than fits", "mehr, als passt", "más de lo que cabe", "収まらない量";
    bytes_it_lacks(): "bytes that it does not have", "Bytes, die sie nicht hat", "bytes que no tiene", "その符号化にないバイト列";
    in_declaration(label): "`{label}` in the declaration", "`{label}` in der Deklaration", "`{label}` en la declaración", "宣言の`{label}`";
    declarations(): "declarations", "Deklarationen", "declaraciones", "宣言";
    parameter_reference(): "a reference to a parameter entity", "ein Verweis auf eine Parameter-Entität", "una referencia a una entidad de parámetro", "パラメータ実体への参照";
    name_of_entity(): "the name of an entity", "der Name einer Entität", "el nombre de una entidad", "実体の名前";
    proper_references(): "a value with proper references", "ein Wert mit richtigen Verweisen", "un valor con referencias correctas", "正しい参照を持つ値";
    others(): "others", "andere", "otras", "別のもの";
    short_value(): "a short value", "ein kurzer Wert", "un valor corto", "短い値";
    beyond_budget(): "one beyond the budget", "einer über dem Budget", "uno por encima del límite", "上限を超えたもの";
}
