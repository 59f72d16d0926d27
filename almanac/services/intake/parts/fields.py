"""What a list of parts or shelves may say, with the words of three languages it stands under."""

from __future__ import annotations

from almanac.core.parts.declared.kinds import kind_told
from almanac.core.parts.kinds import Kind
from almanac.services.intake.columns import Field, plain, said_as

FIELDS = (
    Field("number", "part number", said_as("""part number, part no, part, item number, item no, item code, article number, article no,
        sku, stock code, artikelnummer, artikel nr, artikelnr, art nr, teilenummer, teile nr, teilenr, bestellnummer, bestellnr,
        materialnummer, numero de piece, no piece, no article, code article, reference, ref"""), needed=True),
    Field("name", "what it is", said_as("""name, description, item name, part name, bezeichnung, benennung, beschreibung, artikel,
        designation, libelle, nom""")),
    Field("kind", "kind of part", said_as("""kind, category, part type, item group, kategorie, warengruppe, teileart, gruppe, categorie,
        famille, genre""")),
    Field("fits", "models it fits", said_as("""fits, for model, for models, compatible with, used in, passt zu, passend fuer, fuer modell,
        fuer modelle, verwendung, compatible, pour modele, pour modeles""")),
    Field("supplier", "who sells it", said_as("supplier, vendor, dealer, seller, lieferant, haendler, fournisseur, revendeur")),
    Field("price", "price of one", said_as("""price, unit price, net price, cost, unit cost, preis, stueckpreis, einzelpreis,
        einkaufspreis, ek preis, ek, nettopreis, kosten, prix, prix unitaire, prix d achat, cout"""), amount=True),
    Field("lead_time", "days until it comes", said_as("""lead time, delivery time, delivery days, lieferzeit, lieferfrist, lieferzeit tage,
        wiederbeschaffungszeit, delai, delai de livraison, delai d approvisionnement""")),
    Field("pack", "parts in a pack", said_as("""pack, pack size, packing unit, package, ve, verpackungseinheit, gebinde, packung,
        conditionnement, colis"""), amount=True),
    Field("minimum_order", "fewest sold at once", said_as("""minimum order, min order, moq, mindestbestellmenge, mindestmenge,
        minimum de commande, quantite minimum"""), amount=True),
    Field("shelf_life_days", "days it keeps", said_as("""shelf life, keeps, haltbarkeit, lagerfaehigkeit, lagerdauer,
        duree de conservation, duree de stockage""")),
    Field("end_of_supply_on", "sold until", said_as("""sold until, end of supply, last order, last order day, end of sale, abgekuendigt,
        abkuendigung, letzte bestellung, fin de vente, derniere commande"""), day=True),
    Field("warranty_days", "days of warranty", said_as("warranty, guarantee, garantie, gewaehrleistung")),
    Field("site", "where it lies", said_as("""site, location, store, storeroom, warehouse, shelf, lager, lagerort, standort, ort, regal,
        magasin, depot, emplacement, lieu, entrepot""")),
    Field("on_hand", "parts counted", said_as("""on hand, in stock, stock, quantity, qty, count, counted, available, bestand,
        lagerbestand, menge, anzahl, stueck, stueckzahl, ist bestand, en stock, quantite, qte, inventaire"""), amount=True),
    Field("made_on", "day of manufacture", said_as("""made on, manufactured, manufacture date, date code, herstelldatum, herstellung,
        produktionsdatum, date de fabrication, fabrique le"""), day=True),
)  # fmt: skip
WORDS_OF_KINDS: dict[Kind, tuple[str, ...]] = {
    Kind.MEMORY: ("arbeitsspeicher", "speicher", "ram", "memoire", "barrette"),
    Kind.SSD: ("festplatte", "laufwerk", "platte", "disque", "nvme"),
    Kind.BATTERY: ("akku", "batterie", "akkus", "accu"),
    Kind.FAN: ("luefter", "ventilator", "ventilateur", "geblaese"),
    Kind.MAINBOARD: ("hauptplatine", "platine", "carte mere"),
    Kind.KEYBOARD: ("tastatur", "clavier"),
    Kind.DISPLAY: ("bildschirm", "anzeige", "ecran", "dalle"),
    Kind.RADIO: ("wlan", "funk", "funkkarte"),
    Kind.HEAT_SINK: ("kuehlkoerper", "kuehler", "dissipateur"),
    Kind.POWER_UNIT: ("netzteil", "alimentation"),
    Kind.CHARGING_SOCKET: ("ladebuchse", "netzbuchse", "prise de charge"),
    Kind.SPEAKERS: ("lautsprecher", "haut parleur", "haut parleurs"),
    Kind.SETTINGS_CELL: ("knopfzelle", "pile bouton", "pile"),
    Kind.PROCESSOR: ("prozessor", "processeur"),
}
LONG = 4
LATER = (Kind.MEMORY, Kind.SSD, Kind.BATTERY)
"""Told by words that more particular kinds have too."""


def kind_of(text: str) -> Kind | None:
    """The kind of part that a category or a name tells in three languages; None where it tells none."""
    told = kind_told(text)
    if told is not Kind.OTHER:
        return told
    said = f" {plain(text)} "
    found = [kind for kind, words in WORDS_OF_KINDS.items() if any(_stands(word, said) for word in words)]
    return next((kind for kind in found if kind not in LATER), found[0] if found else None)


def _stands(word: str, said: str) -> bool:
    """Whether a word stands in a text; a longer one also ends another, as in Ersatzakku or Notebooktastatur."""
    return f" {word} " in said or (len(word) >= LONG and f"{word} " in said)
