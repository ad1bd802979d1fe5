# Was Reeder und Lotsen von einem Schleppplan zu lesen bekommen.

plan = Plan
    .pattern = { $title } { $value } ist keine Plannummer: TP- und vier Ziffern.
written = Geschrieben
starts = Beginn
ends = Ende
name = Name
length_m = Länge
tonnage = Tonnage
    .any = { $title } ist eine ganze Zahl von Tonnen, nicht { $value }.
pilot = Lotse
pull_t = Zugkraft
    .exclusiveMinimum = { $title } muss größer als { $limit } sein.
tugs = Schlepper
    .maxItems = { $count ->
        [one] Ein Schlepper ist zu viel.
       *[other] { $count } Schlepper sind zu viele, höchstens { $limit } finden Platz.
    }
question = Frage

takes-time = Von { $starts } bis { $ends } schleppt niemand ein Schiff.
planned-ahead = Das Schleppbüro braucht zwei Stunden, um Schlepper bereitzustellen.
pull-adds-up = Die Schlepper ziehen zusammen nicht { $pull_t } t: { $tugs-pull_t }.
enough-pull = { $pull_t } t Zug sind zu wenig für { $ship-tonnage } Tonnen.
tugs-differ = Jeder Schlepper steht einmal im Plan.
one-at-the-bow = Genau ein Schlepper geht an den Bug.
pilot-for-long-ships = Ein Schiff von { $ship-length_m } m nimmt einen Lotsen.
pilot-by-full-name = Der Lotse steht mit Vor- und Nachnamen da, nicht als „{ $pilot }“.
sunday-rate = Sonntags kosten Schlepper anderthalbmal so viel.
tug-takes-time = Von { $from } bis { $until } hilft kein Schlepper.
tug-within-plan = Ein Schlepper kommt nicht vor dem Beginn und bleibt nicht länger als bis zum Ende.
asks = Eine Frage endet mit einem Fragezeichen.
