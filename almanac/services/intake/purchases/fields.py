"""What a list of purchases may say, with the words of three languages it stands under."""

from __future__ import annotations

from dataclasses import replace

from almanac.services.intake.columns import Field, said_as
from almanac.services.intake.parts.fields import FIELDS as OF_PARTS

OWN = {field.name: field for field in OF_PARTS}
FIELDS = (
    Field("order", "order number", said_as("""order, order number, order no, purchase order, po, po number, bestellung, bestellnummer,
        bestellnr, auftragsnummer, auftrag, commande, no commande, numero de commande, bon de commande"""), needed=True),
    replace(OWN["number"], name="number", words=tuple(word for word in OWN["number"].words if not word.startswith("bestell"))),
    OWN["supplier"],
    Field("quantity", "parts ordered", said_as("""quantity, qty, ordered, amount, pieces, menge, anzahl, stueck, bestellmenge, quantite,
        qte"""), needed=True, amount=True),
    Field("ordered_on", "day it was ordered", said_as("""ordered on, order date, ordered, date of order, purchase date, po date,
        bestelldatum, bestellt am, date de commande, commande le, date commande"""), needed=True, day=True),
    Field("expected_on", "day it is expected", said_as("""expected, expected on, due, due date, promised, delivery due, eta, liefertermin,
        termin, zugesagt, date prevue, livraison prevue"""), day=True),
    Field("received_on", "day it arrived", said_as("""received, received on, arrived, arrived on, delivered, delivered on, goods receipt,
        receipt date, geliefert, geliefert am, wareneingang, eingang, lieferdatum, recu, recu le, livre le,
        date de reception"""), day=True),
    OWN["price"],
    replace(OWN["site"], about="where it was delivered to"),
)  # fmt: skip
