# Lo que leen navieras y prácticos de un plan de remolque.

plan = Plan
    .pattern = { $title } { $value } no es un número de plan: TP- y cuatro cifras.
written = Escrito
starts = Comienzo
ends = Fin
name = Nombre
length_m = Eslora
tonnage = Tonelaje
    .any = { $title } es un número entero de toneladas, no { $value }.
pilot = Práctico
pull_t = Tiro
    .exclusiveMinimum = { $title } debe ser mayor que { $limit }.
tugs = Remolcadores
    .maxItems = { $count ->
        [one] Un remolcador sobra.
       *[other] { $count } remolcadores son demasiados: caben { $limit } como máximo.
    }
question = Pregunta

takes-time = De { $starts } a { $ends } nadie remolca un barco.
planned-ahead = La oficina de remolque necesita dos horas para preparar los remolcadores.
pull-adds-up = Los remolcadores no suman { $pull_t } t de tiro: { $tugs-pull_t }.
enough-pull = { $pull_t } t de tiro son pocas para { $ship-tonnage } toneladas.
tugs-differ = Cada remolcador figura una sola vez en el plan.
one-at-the-bow = Un solo remolcador va a proa.
pilot-for-long-ships = Un barco de { $ship-length_m } m lleva práctico.
pilot-by-full-name = El práctico figura con nombre y apellido, no como «{ $pilot }».
sunday-rate = Los domingos los remolcadores cuestan una vez y media.
tug-takes-time = De { $from } a { $until } no ayuda ningún remolcador.
tug-within-plan = Un remolcador no llega antes del comienzo ni se queda después del fin.
asks = Una pregunta termina con un signo de interrogación.
