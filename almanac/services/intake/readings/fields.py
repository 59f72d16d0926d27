"""What a list of readings may say, with the words of three languages it stands under."""

from __future__ import annotations

from almanac.services.intake.columns import Field, said_as
from almanac.services.intake.machines.fields import FIELDS as OF_MACHINES

TAG = next(field for field in OF_MACHINES if field.name == "tag")
FIELDS = (
    TAG,
    Field("position", "which part of the machine", said_as("""position, part, component, which, slot, komponente, bauteil, teil, akku,
        composant, piece, battery, batterie""")),
    Field("read_on", "day it was read", said_as("""read on, date, day, reading date, report date, measured on, datum, tag, messdatum,
        gelesen am, ausgelesen, date de lecture, lu le, date de mesure, time, timestamp"""), needed=True, day=True, alone=True),
    Field("full", "full capacity that day", said_as("""full charge capacity, full capacity, full charge, full, current capacity,
        capacity now, last full capacity, volle kapazitaet, ist kapazitaet, restkapazitaet, kapazitaet, capacite pleine,
        capacite actuelle, capacite"""), amount=True),
    Field("design", "capacity it was made for", said_as("""design capacity, design, rated capacity, nominal capacity, nennkapazitaet,
        sollkapazitaet, designkapazitaet, capacite nominale, capacite d origine"""), amount=True),
    Field("share", "what is left, %", said_as("""health, state of health, soh, remaining, life left, percentage left, wear left, zustand,
        akkuzustand, gesundheit, restlebensdauer, sante, etat de sante, vie restante"""), amount=True),
)  # fmt: skip
