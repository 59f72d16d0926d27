"""All tables, so that one import gives the whole schema."""

from almanac.store.models.alarms import AlarmDecision, ChartScope, Verdict
from almanac.store.models.answers import AnswerRow, Pin, ReplyRow, WorkProgress
from almanac.store.models.base import Base
from almanac.store.models.catalog import DeviceModel, ModelRevision, Photo, Position
from almanac.store.models.fleet import Asset, AssetStay, FleetPlan
from almanac.store.models.incidents import EventLine, EventRevision, Incident
from almanac.store.models.intake import Intake, ListSource, ListWork
from almanac.store.models.jobs import ApprovalRow, CustodyLine, Job, JobEntry
from almanac.store.models.marks import Written
from almanac.store.models.orders import (
    Cancellation,
    OrderDraft,
    OrderDraftLine,
    OrderMailing,
    PurchaseLine,
    PurchaseOrder,
    Receipt,
    SupplierAnswer,
)
from almanac.store.models.parts import CatalogChange, Fits, Interchange, Part, PriceBreak
from almanac.store.models.people import (
    AuditEntry,
    BackupRun,
    PasswordLink,
    ProviderAttempt,
    RequestKey,
    Role,
    Setting,
    SignInAttempt,
    User,
    UserSite,
    WebSession,
)
from almanac.store.models.places import Lane, Site, Supplier
from almanac.store.models.readings import Reading
from almanac.store.models.reports import AccessToken, FleetView, MachineReport, ReportQuestion, Scope
from almanac.store.models.scenarios import Scenario
from almanac.store.models.stock import (
    Backorder,
    Reservation,
    Shelf,
    ShelfBalance,
    StockAct,
    StockCount,
    StockMove,
    Transfer,
)
from almanac.store.models.tenures import LotKnownBy, Tenure, Unit

__all__ = [
    "AccessToken",
    "AlarmDecision",
    "AnswerRow",
    "ApprovalRow",
    "Asset",
    "AssetStay",
    "AuditEntry",
    "Backorder",
    "BackupRun",
    "Base",
    "Cancellation",
    "CatalogChange",
    "ChartScope",
    "CustodyLine",
    "DeviceModel",
    "EventLine",
    "EventRevision",
    "Fits",
    "FleetPlan",
    "FleetView",
    "Incident",
    "Intake",
    "Interchange",
    "Job",
    "JobEntry",
    "Lane",
    "ListSource",
    "ListWork",
    "LotKnownBy",
    "MachineReport",
    "ModelRevision",
    "OrderDraft",
    "OrderDraftLine",
    "OrderMailing",
    "Part",
    "PasswordLink",
    "Photo",
    "Pin",
    "Position",
    "PriceBreak",
    "ProviderAttempt",
    "PurchaseLine",
    "PurchaseOrder",
    "Reading",
    "Receipt",
    "ReplyRow",
    "ReportQuestion",
    "RequestKey",
    "Reservation",
    "Role",
    "Scenario",
    "Scope",
    "Setting",
    "Shelf",
    "ShelfBalance",
    "SignInAttempt",
    "Site",
    "StockAct",
    "StockCount",
    "StockMove",
    "Supplier",
    "SupplierAnswer",
    "Tenure",
    "Transfer",
    "Unit",
    "User",
    "UserSite",
    "Verdict",
    "WebSession",
    "WorkProgress",
    "Written",
]
