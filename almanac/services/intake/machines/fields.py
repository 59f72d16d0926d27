"""What a machine list may say, with the words of three languages it stands under."""

from __future__ import annotations

from almanac.services.intake.columns import Field, plain, said_as

FIELDS = (
    Field("tag", "asset tag", said_as("""tag, asset tag, asset, asset no, asset number, inventory number, inventory no, computer name,
        inventar, inventarnummer, inventarnr, anlagennummer, anlage, geraetenummer,
        numero d inventaire, no inventaire, inventaire, immobilisation"""), needed=True),
    Field("serial", "serial number", said_as("""serial, serial number, serial no, seriennummer, serien nr, numero de serie,
        no serie, s/n, sn""")),
    Field("maker", "maker", said_as("""maker, manufacturer, make, brand, vendor, hersteller, marke, fabricant, marque, constructeur""")),
    Field("model", "model", said_as("""model, model name, type, product, modell, typ, geraetetyp, bezeichnung, modele,
        designation, produit"""),
        needed=True),
    Field("form", "what it is", said_as("""form, form factor, category, device category, kind of device, kategorie, geraeteart, bauform,
        categorie, categorie d appareil, chassis""")),
    Field("site", "where it stands", said_as("""site, location, place, office, branch, city, standort, ort, niederlassung, filiale, lieu,
        emplacement, agence""")),
    Field("duty", "how it is used", said_as("""duty, use, usage, shift, hours, einsatz, nutzung, betrieb, utilisation, service""")),
    Field("in_service_on", "first day of use", said_as("""in service, in service on, in service since, purchase date, purchased, bought,
        delivered, delivery date, start date, acquisition, kaufdatum, anschaffung, anschaffungsdatum, gekauft, lieferdatum,
        inbetriebnahme, in betrieb seit, date d achat, achat, mise en service, date de livraison, date d acquisition"""),
        day=True, alone=True),
    Field("retire_planned_on", "day it is to be retired", said_as("""retire, retirement, planned retirement, replace by, end of life,
        end of lease, lease end, ersatz, ersatzdatum, leasingende, nutzungsende, remplacement, fin de bail, fin de vie"""), day=True),
    Field("status", "whether it is in use", said_as("""status, state, condition, zustand, statut, etat""")),
)  # fmt: skip
GONE_WORDS = said_as("""scrapped, retired, disposed, sold, written off, lost, stolen, recycled, returned, verschrottet, ausgemustert,
    entsorgt,
    verkauft, abgeschrieben, verloren, gestohlen, ausser betrieb, reforme, rebut, mis au rebut, vendu, perdu, vole, hors service""")


def means_gone(status: str) -> bool:
    """Whether a status says that a machine is used no more."""
    said = plain(status)
    return any(word in said for word in GONE_WORDS)
