"""Headings of tables in other languages: one table by language, for what a column may mean.

Keys are those of the roles in `mapping`; of a reading its measurand, with what is said before work.
Names are lower case; space, dot, hyphen and underscore mean the same, and accents may lack.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator, Mapping

from loam.core.readings import KINDS

BEFORE_WORK = {
    "de": ("vorher", "vor", "vor_arbeit", "ausgang", "anfang"),
    "fr": ("avant", "initial", "depart"),
    "es": ("antes", "inicial"),
}
"""What stands after (or before) a measurand's name for its reading before work."""

WORDS: Mapping[str, Mapping[str, tuple[str, ...]]] = {
    "de": {
        "panel": ("platte", "tafel", "probeblech", "blech", "musterplatte"),
        "hardness": ("haerte", "härte", "haerteklasse", "härteklasse", "lackhärte", "lackhaerte"),
        "combination": ("kombination", "kombi", "variante"),
        "cell": ("zelle", "feld"),
        "row": ("zeile", "reihe"),
        "column": ("spalte",),
        "reading": ("messung", "messung_nr", "wiederholung", "nr"),
        "operator": ("bearbeiter", "poliert_von", "person"),
        "reader": ("gemessen_von", "ableser"),
        "meter": ("messgerät", "messgeraet", "gerät", "geraet"),
        "day": ("tag", "datum"),
        "run_order": ("reihenfolge",),
        "pad": ("polierpad", "schwamm"),
        "compound": ("politur",),
        "machine": ("maschine",),
        "passes": ("kreuzgänge", "kreuzgaenge", "durchgänge", "durchgaenge", "züge"),
        "paint": ("lack", "farbe"),
    },
    "fr": {
        "panel": ("panneau", "plaque", "tole", "tôle"),
        "hardness": ("dureté", "durete", "classe_de_dureté", "vernis"),
        "combination": ("combinaison", "variante"),
        "cell": ("cellule", "case"),
        "row": ("ligne", "rangée"),
        "column": ("colonne",),
        "reading": ("mesure", "lecture", "répétition"),
        "operator": ("opérateur", "operateur"),
        "reader": ("lecteur", "lu_par"),
        "meter": ("appareil", "instrument_de_mesure"),
        "day": ("jour", "date"),
        "run_order": ("ordre",),
        "pad": ("tampon", "mousse"),
        "compound": ("produit", "pâte"),
        "machine": ("machine", "polisseuse"),
        "passes": ("passages", "passes_croisées"),
        "paint": ("peinture",),
    },
    "es": {
        "panel": ("placa", "chapa", "probeta"),
        "hardness": ("dureza", "clase_de_dureza", "barniz"),
        "combination": ("combinación", "combinacion", "variante"),
        "cell": ("celda", "casilla"),
        "row": ("fila",),
        "column": ("columna",),
        "reading": ("lectura", "medición", "medida", "repetición"),
        "operator": ("operador",),
        "reader": ("lector", "leído_por"),
        "meter": ("medidor", "aparato"),
        "day": ("día", "fecha"),
        "run_order": ("orden",),
        "pad": ("almohadilla", "esponja"),
        "compound": ("producto", "pulimento"),
        "machine": ("máquina", "pulidora"),
        "passes": ("pasadas",),
        "paint": ("pintura",),
    },
}


def plain_name(name: str) -> str:
    """Return a heading without accents, units in brackets and what joins its words."""
    low = unicodedata.normalize("NFKD", name.strip().casefold())
    kept = "".join(c for c in low if not unicodedata.combining(c))
    for mark in (" ", "-", ".", "°", "/"):
        kept = kept.replace(mark, "_")
    return "_".join(part for part in kept.split("_") if part)


def named(measurands: Mapping[str, tuple[str, str]]) -> Iterator[tuple[str, str]]:
    """Return (plain heading, role) for every word of every language.

    Parameters
    ----------
    measurands : mapping of str to (str, str)
        Roles of the reading after and before work, by measurand.
    """
    for language, words in WORDS.items():
        read = {k.key: k.abroad[language] for k in KINDS if language in k.abroad}
        for key, names in (*words.items(), *read.items()):
            for name in names:
                flat = plain_name(name)
                if key not in measurands:
                    yield flat, key
                    continue
                after, before = measurands[key]
                yield flat, after
                for said in BEFORE_WORK[language]:
                    yield f"{flat}_{said}", before
                    yield f"{said}_{flat}", before
