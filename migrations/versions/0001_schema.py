"""Fleet, parts, tenures, incidents, stock and orders."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


APPEND_ONLY = ("event_revision", "event_line", "stock_move", "receipt", "setting")

REFUSE = """
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION '% is append-only: add a row instead', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$
"""


def upgrade() -> None:
    op.execute("CREATE EXTENSION IF NOT EXISTS btree_gist")
    op.create_table(
        "device_model",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("maker", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("family", sa.String(), nullable=False),
        sa.Column("form", sa.String(), nullable=False),
        sa.CheckConstraint(
            "form IN ('notebook', 'convertible', 'all_in_one', 'mini_pc', 'workstation')", name=op.f("ck_device_model_form_known")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_device_model")),
        sa.UniqueConstraint("maker", "name", name=op.f("uq_device_model_maker_name")),
    )
    op.create_table(
        "sign_in_attempt",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("login", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("attempted_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sign_in_attempt")),
    )
    op.create_index("ix_sign_in_attempt_login", "sign_in_attempt", ["login", "attempted_at"], unique=False)
    op.create_table(
        "site",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("time_zone", sa.String(), nullable=False),
        sa.Column("environment", sa.String(), nullable=False),
        sa.Column("log_began_on", sa.Date(), nullable=False),
        sa.Column("is_depot", sa.Boolean(), nullable=False),
        sa.CheckConstraint("environment IN ('office', 'salt', 'dust')", name=op.f("ck_site_environment_known")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_site")),
        sa.UniqueConstraint("code", name=op.f("uq_site_code")),
        sa.UniqueConstraint("name", name=op.f("uq_site_name")),
    )
    op.create_index("uq_site_one_depot", "site", ["is_depot"], unique=True, postgresql_where=sa.text("is_depot"))
    op.create_table(
        "supplier",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("lead_time", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.CheckConstraint("jsonb_array_length(lead_time) > 0", name=op.f("ck_supplier_lead_time_given")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_supplier")),
        sa.UniqueConstraint("name", name=op.f("uq_supplier_name")),
    )
    op.create_table(
        "user",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("login", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.CheckConstraint("role IN ('lead', 'technician', 'reader')", name=op.f("ck_user_role_known")),
        sa.CheckConstraint("login = lower(login)", name=op.f("ck_user_login_lower_case")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_user")),
        sa.UniqueConstraint("login", name=op.f("uq_user_login")),
    )
    op.create_table(
        "asset",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("tag", sa.String(), nullable=False),
        sa.Column("serial", sa.String(), nullable=True),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("options", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("duty", sa.String(), nullable=False),
        sa.Column("in_service_on", sa.Date(), nullable=False),
        sa.Column("retire_planned_on", sa.Date(), nullable=True),
        sa.Column("retired_on", sa.Date(), nullable=True),
        sa.CheckConstraint("duty IN ('office_hours', 'two_shifts', 'round_the_clock')", name=op.f("ck_asset_duty_known")),
        sa.CheckConstraint("retire_planned_on >= in_service_on", name=op.f("ck_asset_planned_after_in_service")),
        sa.CheckConstraint("retired_on >= in_service_on", name=op.f("ck_asset_retired_after_in_service")),
        sa.ForeignKeyConstraint(["model_id"], ["device_model.id"], name=op.f("fk_asset_model_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_asset")),
        sa.UniqueConstraint("id", "model_id", name="uq_asset_id_model"),
        sa.UniqueConstraint("tag", name=op.f("uq_asset_tag")),
    )
    op.create_index("ix_asset_model_id", "asset", ["model_id"], unique=False)
    op.create_table(
        "lane",
        sa.Column("from_site_id", sa.Integer(), nullable=False),
        sa.Column("to_site_id", sa.Integer(), nullable=False),
        sa.Column("days", sa.Integer(), nullable=False),
        sa.CheckConstraint("days >= 0", name=op.f("ck_lane_days_not_negative")),
        sa.CheckConstraint("from_site_id <> to_site_id", name=op.f("ck_lane_two_ends")),
        sa.ForeignKeyConstraint(["from_site_id"], ["site.id"], name=op.f("fk_lane_from_site_id")),
        sa.ForeignKeyConstraint(["to_site_id"], ["site.id"], name=op.f("fk_lane_to_site_id")),
        sa.PrimaryKeyConstraint("from_site_id", "to_site_id", name=op.f("pk_lane")),
    )
    op.create_table(
        "model_revision",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("page", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("draft", sa.Boolean(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_model_revision_author_id")),
        sa.ForeignKeyConstraint(["model_id"], ["device_model.id"], name=op.f("fk_model_revision_model_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_model_revision")),
        sa.UniqueConstraint("model_id", "number", name=op.f("uq_model_revision_model_id_number")),
    )
    op.create_index("uq_model_revision_one_draft", "model_revision", ["model_id"], unique=True, postgresql_where=sa.text("draft"))
    op.create_table(
        "part",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("facts", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("supplier_id", sa.Integer(), nullable=False),
        sa.Column("price", sa.Numeric(precision=12, scale=2), nullable=False),
        sa.Column("pack", sa.Integer(), nullable=False),
        sa.Column("minimum_order", sa.Integer(), nullable=False),
        sa.Column("shelf_life_days", sa.Integer(), nullable=True),
        sa.Column("end_of_supply_on", sa.Date(), nullable=True),
        sa.CheckConstraint(
            "kind IN ('memory', 'ssd', 'battery', 'fan', 'mainboard', 'keyboard', 'palm_rest', 'display', 'radio', 'other')",
            name=op.f("ck_part_kind_known"),
        ),
        sa.CheckConstraint("minimum_order >= 1", name=op.f("ck_part_minimum_order_positive")),
        sa.CheckConstraint("pack >= 1", name=op.f("ck_part_pack_positive")),
        sa.CheckConstraint("price >= 0", name=op.f("ck_part_price_not_negative")),
        sa.CheckConstraint("shelf_life_days > 0", name=op.f("ck_part_shelf_life_positive")),
        sa.ForeignKeyConstraint(["supplier_id"], ["supplier.id"], name=op.f("fk_part_supplier_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part")),
        sa.UniqueConstraint("number", name=op.f("uq_part_number")),
    )
    op.create_table(
        "purchase_order",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("supplier_id", sa.Integer(), nullable=False),
        sa.Column("site_id", sa.Integer(), nullable=False),
        sa.Column("placed_on", sa.Date(), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_purchase_order_author_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_purchase_order_site_id")),
        sa.ForeignKeyConstraint(["supplier_id"], ["supplier.id"], name=op.f("fk_purchase_order_supplier_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_purchase_order")),
        sa.UniqueConstraint("number", name=op.f("uq_purchase_order_number")),
    )
    op.create_index("ix_purchase_order_placed_on", "purchase_order", ["placed_on"], unique=False)
    op.create_table(
        "setting",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("scope", sa.String(), nullable=False),
        sa.Column("scope_key", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("value", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("from_on", sa.Date(), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("(scope = 'company') = (scope_key = '')", name=op.f("ck_setting_scope_key_given")),
        sa.CheckConstraint("scope IN ('company', 'kind', 'part')", name=op.f("ck_setting_scope_known")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_setting_author_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_setting")),
        sa.UniqueConstraint("scope", "scope_key", "key", "number", name=op.f("uq_setting_scope_scope_key_key_number")),
    )
    op.create_table(
        "asset_stay",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("asset_id", sa.Integer(), nullable=False),
        sa.Column("site_id", sa.Integer(), nullable=False),
        sa.Column("from_on", sa.Date(), nullable=False),
        sa.Column("until_on", sa.Date(), nullable=True),
        postgresql.ExcludeConstraint(
            (sa.column("asset_id"), "="), (sa.text("daterange(from_on, until_on)"), "&&"), using="gist", name="one_site_at_a_time"
        ),
        sa.CheckConstraint("until_on > from_on", name=op.f("ck_asset_stay_ends_after_start")),
        sa.ForeignKeyConstraint(["asset_id"], ["asset.id"], name=op.f("fk_asset_stay_asset_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_asset_stay_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_asset_stay")),
    )
    op.create_index("ix_asset_stay_site_id", "asset_stay", ["site_id"], unique=False)
    op.create_table(
        "incident",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("asset_id", sa.Integer(), nullable=False),
        sa.Column("site_id", sa.Integer(), nullable=False),
        sa.Column("latest_number", sa.Integer(), nullable=False),
        sa.Column("occurred_on", sa.Date(), nullable=False),
        sa.Column("is_open", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["asset_id"], ["asset.id"], name=op.f("fk_incident_asset_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_incident_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_incident")),
    )
    op.create_index("ix_incident_asset_id", "incident", ["asset_id"], unique=False)
    op.create_index(
        "ix_incident_page",
        "incident",
        [sa.literal_column("is_open DESC"), sa.literal_column("occurred_on DESC"), sa.literal_column("id DESC")],
        unique=False,
    )
    op.create_table(
        "interchange",
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("serves_as_id", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.CheckConstraint("part_id <> serves_as_id", name=op.f("ck_interchange_two_parts")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_interchange_part_id")),
        sa.ForeignKeyConstraint(["serves_as_id"], ["part.id"], name=op.f("fk_interchange_serves_as_id")),
        sa.PrimaryKeyConstraint("part_id", "serves_as_id", name=op.f("pk_interchange")),
    )
    op.create_table(
        "position",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("revision_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("serviceability", sa.String(), nullable=False),
        sa.Column("ordered_unit", sa.String(), nullable=True),
        sa.Column("option_condition", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.CheckConstraint(
            "kind IN ('memory', 'ssd', 'battery', 'fan', 'mainboard', 'keyboard', 'palm_rest', 'display', 'radio', 'other')",
            name=op.f("ck_position_kind_known"),
        ),
        sa.CheckConstraint(
            "serviceability IN ('socketed', 'screwed', 'clipped', 'taped', 'glued', 'staked', 'soldered', 'in_assembly', 'unknown')",
            name=op.f("ck_position_serviceability_known"),
        ),
        sa.ForeignKeyConstraint(["model_id"], ["device_model.id"], name=op.f("fk_position_model_id")),
        sa.ForeignKeyConstraint(["revision_id"], ["model_revision.id"], name=op.f("fk_position_revision_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_position")),
        sa.UniqueConstraint("id", "model_id", name="uq_position_id_model"),
        sa.UniqueConstraint("model_id", "key", name=op.f("uq_position_model_id_key")),
    )
    op.create_table(
        "purchase_line",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("order_id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("cancelled", sa.Integer(), nullable=False),
        sa.Column("price", sa.Numeric(precision=12, scale=2), nullable=False),
        sa.Column("expected_on", sa.Date(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.CheckConstraint("cancelled >= 0 AND cancelled <= quantity", name=op.f("ck_purchase_line_cancelled_within_quantity")),
        sa.CheckConstraint("quantity > 0", name=op.f("ck_purchase_line_quantity_positive")),
        sa.ForeignKeyConstraint(["order_id"], ["purchase_order.id"], name=op.f("fk_purchase_line_order_id")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_purchase_line_part_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_purchase_line")),
    )
    op.create_index("ix_purchase_line_part_id", "purchase_line", ["part_id"], unique=False)
    op.create_table(
        "shelf",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("site_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_shelf_part_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_shelf_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_shelf")),
        sa.UniqueConstraint("part_id", "site_id", name=op.f("uq_shelf_part_id_site_id")),
    )
    op.create_table(
        "unit",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("serial", sa.String(), nullable=True),
        sa.Column("condition", sa.String(), nullable=False),
        sa.Column("received_on", sa.Date(), nullable=True),
        sa.Column("made_on", sa.Date(), nullable=True),
        sa.CheckConstraint("condition IN ('new', 'used', 'harvested', 'failed', 'unknown')", name=op.f("ck_unit_condition_known")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_unit_part_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_unit")),
        sa.UniqueConstraint("id", "part_id", name="uq_unit_id_part"),
    )
    op.create_index("ix_unit_serial", "unit", ["serial"], unique=False, postgresql_where=sa.text("serial IS NOT NULL"))
    op.create_table(
        "backorder",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("shelf_id", sa.Integer(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("asset_id", sa.Integer(), nullable=True),
        sa.Column("asked_on", sa.Date(), nullable=False),
        sa.Column("filled_on", sa.Date(), nullable=True),
        sa.CheckConstraint("quantity > 0", name=op.f("ck_backorder_quantity_positive")),
        sa.ForeignKeyConstraint(["asset_id"], ["asset.id"], name=op.f("fk_backorder_asset_id")),
        sa.ForeignKeyConstraint(["shelf_id"], ["shelf.id"], name=op.f("fk_backorder_shelf_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_backorder")),
    )
    op.create_index("ix_backorder_shelf_id", "backorder", ["shelf_id"], unique=False)
    op.create_table(
        "event_revision",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("incident_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("occurred_on", sa.Date(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("finding", sa.String(), nullable=False),
        sa.Column("minutes", sa.Integer(), nullable=True),
        sa.Column("note", sa.String(), nullable=False),
        sa.CheckConstraint(
            "finding IN ('confirmed', 'open', 'no_fault_found', 'damage', 'dead_on_arrival', 'upgrade', 'preventive')",
            name=op.f("ck_event_revision_finding_known"),
        ),
        sa.CheckConstraint("minutes >= 0", name=op.f("ck_event_revision_minutes_not_negative")),
        sa.CheckConstraint("number >= 1", name=op.f("ck_event_revision_number_positive")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_event_revision_author_id")),
        sa.ForeignKeyConstraint(["incident_id"], ["incident.id"], name=op.f("fk_event_revision_incident_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_event_revision")),
        sa.UniqueConstraint("incident_id", "number", name=op.f("uq_event_revision_incident_id_number")),
    )
    op.create_index("ix_event_revision_occurred_on", "event_revision", ["occurred_on", "incident_id"], unique=False)
    op.create_table(
        "fits",
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("position_id", sa.Integer(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("origin", sa.String(), nullable=False),
        sa.CheckConstraint("origin IN ('listed', 'computed')", name=op.f("ck_fits_origin_known")),
        sa.CheckConstraint("verdict IN ('yes', 'no', 'unknown')", name=op.f("ck_fits_verdict_known")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_fits_part_id")),
        sa.ForeignKeyConstraint(["position_id"], ["position.id"], name=op.f("fk_fits_position_id")),
        sa.PrimaryKeyConstraint("part_id", "position_id", name=op.f("pk_fits")),
        sa.UniqueConstraint("position_id", "part_id", name=op.f("uq_fits_position_id_part_id")),
    )
    op.create_table(
        "fleet_plan",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("action", sa.String(), nullable=False),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("site_id", sa.Integer(), nullable=False),
        sa.Column("duty", sa.String(), nullable=False),
        sa.Column("planned_on", sa.Date(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("position_id", sa.Integer(), nullable=True),
        sa.Column("part_id", sa.Integer(), nullable=True),
        sa.Column("note", sa.String(), nullable=False),
        sa.CheckConstraint("(action = 'swap') = (part_id IS NOT NULL)", name=op.f("ck_fleet_plan_swap_names_part")),
        sa.CheckConstraint("action IN ('purchase', 'retire', 'swap')", name=op.f("ck_fleet_plan_action_known")),
        sa.CheckConstraint("duty IN ('office_hours', 'two_shifts', 'round_the_clock')", name=op.f("ck_fleet_plan_duty_known")),
        sa.CheckConstraint("quantity > 0", name=op.f("ck_fleet_plan_quantity_positive")),
        sa.ForeignKeyConstraint(["model_id"], ["device_model.id"], name=op.f("fk_fleet_plan_model_id")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_fleet_plan_part_id")),
        sa.ForeignKeyConstraint(["position_id", "model_id"], ["position.id", "position.model_id"], name="fk_fleet_plan_position_of_model"),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_fleet_plan_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_fleet_plan")),
    )
    op.create_table(
        "receipt",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("line_id", sa.Integer(), nullable=False),
        sa.Column("received_on", sa.Date(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.CheckConstraint("quantity > 0", name=op.f("ck_receipt_quantity_positive")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_receipt_author_id")),
        sa.ForeignKeyConstraint(["line_id"], ["purchase_line.id"], name=op.f("fk_receipt_line_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_receipt")),
    )
    op.create_index("ix_receipt_line_id", "receipt", ["line_id"], unique=False)
    op.create_table(
        "reservation",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("shelf_id", sa.Integer(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("asset_id", sa.Integer(), nullable=True),
        sa.Column("reserved_on", sa.Date(), nullable=False),
        sa.Column("released_on", sa.Date(), nullable=True),
        sa.CheckConstraint("quantity > 0", name=op.f("ck_reservation_quantity_positive")),
        sa.ForeignKeyConstraint(["asset_id"], ["asset.id"], name=op.f("fk_reservation_asset_id")),
        sa.ForeignKeyConstraint(["shelf_id"], ["shelf.id"], name=op.f("fk_reservation_shelf_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_reservation")),
    )
    op.create_index("ix_reservation_shelf_id", "reservation", ["shelf_id"], unique=False)
    op.create_table(
        "tenure",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("asset_id", sa.Integer(), nullable=False),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("position_id", sa.Integer(), nullable=False),
        sa.Column("fitted_on", sa.Date(), nullable=False),
        sa.Column("removed_on", sa.Date(), nullable=True),
        sa.Column("age_at_fitting_days", sa.Integer(), nullable=False),
        sa.Column("observed_from", sa.Date(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("removal_recorded_at", sa.DateTime(timezone=True), nullable=True),
        postgresql.ExcludeConstraint(
            (sa.column("asset_id"), "="),
            (sa.column("position_id"), "="),
            (sa.text("daterange(fitted_on, removed_on)"), "&&"),
            using="gist",
            name="one_at_a_time",
        ),
        postgresql.ExcludeConstraint(
            (sa.column("unit_id"), "="), (sa.text("daterange(fitted_on, removed_on)"), "&&"), using="gist", name="one_place_at_a_time"
        ),
        sa.CheckConstraint("(removed_on IS NULL) = (removal_recorded_at IS NULL)", name=op.f("ck_tenure_removal_recorded")),
        sa.CheckConstraint("age_at_fitting_days >= 0", name=op.f("ck_tenure_age_not_negative")),
        sa.CheckConstraint("observed_from >= fitted_on", name=op.f("ck_tenure_observed_after_fitted")),
        sa.CheckConstraint("removed_on >= fitted_on", name=op.f("ck_tenure_removed_after_fitted")),
        sa.ForeignKeyConstraint(["asset_id", "model_id"], ["asset.id", "asset.model_id"], name="fk_tenure_asset_model"),
        sa.ForeignKeyConstraint(["position_id", "model_id"], ["position.id", "position.model_id"], name="fk_tenure_position_model"),
        sa.ForeignKeyConstraint(["unit_id", "part_id"], ["unit.id", "unit.part_id"], name="fk_tenure_unit_part", ondelete="RESTRICT"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tenure")),
    )
    op.create_index("ix_tenure_part_id", "tenure", ["part_id"], unique=False)
    op.create_table(
        "event_line",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("revision_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("position_id", sa.Integer(), nullable=False),
        sa.Column("action", sa.String(), nullable=False),
        sa.Column("finding", sa.String(), nullable=False),
        sa.Column("removed_tenure_id", sa.Integer(), nullable=True),
        sa.Column("removed_part_id", sa.Integer(), nullable=True),
        sa.Column("fitted_tenure_id", sa.Integer(), nullable=True),
        sa.Column("fitted_part_id", sa.Integer(), nullable=True),
        sa.Column("shelf_site_id", sa.Integer(), nullable=True),
        sa.CheckConstraint("(action = 'replaced') = (fitted_part_id IS NOT NULL)", name=op.f("ck_event_line_replaced_names_part")),
        sa.CheckConstraint("action IN ('replaced', 'removed', 'kept')", name=op.f("ck_event_line_action_known")),
        sa.CheckConstraint(
            "finding IN ('confirmed', 'open', 'no_fault_found', 'damage', 'dead_on_arrival', 'upgrade', 'preventive')",
            name=op.f("ck_event_line_finding_known"),
        ),
        sa.ForeignKeyConstraint(["fitted_part_id"], ["part.id"], name=op.f("fk_event_line_fitted_part_id")),
        sa.ForeignKeyConstraint(["fitted_tenure_id"], ["tenure.id"], name=op.f("fk_event_line_fitted_tenure_id")),
        sa.ForeignKeyConstraint(["position_id"], ["position.id"], name=op.f("fk_event_line_position_id")),
        sa.ForeignKeyConstraint(["removed_part_id"], ["part.id"], name=op.f("fk_event_line_removed_part_id")),
        sa.ForeignKeyConstraint(["removed_tenure_id"], ["tenure.id"], name=op.f("fk_event_line_removed_tenure_id")),
        sa.ForeignKeyConstraint(["revision_id"], ["event_revision.id"], name=op.f("fk_event_line_revision_id")),
        sa.ForeignKeyConstraint(["shelf_site_id"], ["site.id"], name=op.f("fk_event_line_shelf_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_event_line")),
        sa.UniqueConstraint("revision_id", "number", name=op.f("uq_event_line_revision_id_number")),
    )
    op.create_index("ix_event_line_removed_tenure_id", "event_line", ["removed_tenure_id"], unique=False)
    op.create_table(
        "stock_move",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("shelf_id", sa.Integer(), nullable=False),
        sa.Column("bucket", sa.String(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("cause", sa.String(), nullable=False),
        sa.Column("lot", sa.String(), nullable=True),
        sa.Column("made_on", sa.Date(), nullable=True),
        sa.Column("moved_on", sa.Date(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("incident_id", sa.Integer(), nullable=True),
        sa.Column("receipt_id", sa.Integer(), nullable=True),
        sa.CheckConstraint(
            "bucket IN ('on_hand', 'harvested', 'quarantine', 'scrapped', 'returned')", name=op.f("ck_stock_move_bucket_known")
        ),
        sa.CheckConstraint(
            "cause IN ('opening', 'receipt', 'fitted', 'removed', 'reclassified', 'sent', 'arrived', 'counted', 'tested', 'returned', 'scrapped')",
            name=op.f("ck_stock_move_cause_known"),
        ),
        sa.CheckConstraint("quantity <> 0", name=op.f("ck_stock_move_quantity_not_zero")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_stock_move_author_id")),
        sa.ForeignKeyConstraint(["incident_id"], ["incident.id"], name=op.f("fk_stock_move_incident_id")),
        sa.ForeignKeyConstraint(["receipt_id"], ["receipt.id"], name=op.f("fk_stock_move_receipt_id")),
        sa.ForeignKeyConstraint(["shelf_id"], ["shelf.id"], name=op.f("fk_stock_move_shelf_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_stock_move")),
    )
    op.create_index("ix_stock_move_shelf_id", "stock_move", ["shelf_id", "bucket"], unique=False)

    op.create_foreign_key(
        "fk_incident_latest_revision",
        "incident",
        "event_revision",
        ["id", "latest_number"],
        ["incident_id", "number"],
        deferrable=True,
        initially="DEFERRED",
    )
    op.execute(REFUSE)
    for table in APPEND_ONLY:
        op.execute(f"CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION refuse_change()")


def downgrade() -> None:
    op.execute("DROP FUNCTION refuse_change CASCADE")
    op.drop_index("ix_stock_move_shelf_id", table_name="stock_move")
    op.drop_table("stock_move")
    op.drop_index("ix_event_line_removed_tenure_id", table_name="event_line")
    op.drop_table("event_line")
    op.drop_index("ix_tenure_part_id", table_name="tenure")
    op.drop_table("tenure")
    op.drop_index("ix_reservation_shelf_id", table_name="reservation")
    op.drop_table("reservation")
    op.drop_index("ix_receipt_line_id", table_name="receipt")
    op.drop_table("receipt")
    op.drop_table("fleet_plan")
    op.drop_table("fits")
    op.drop_index("ix_event_revision_occurred_on", table_name="event_revision")
    op.drop_table("event_revision")
    op.drop_index("ix_backorder_shelf_id", table_name="backorder")
    op.drop_table("backorder")
    op.drop_index("ix_unit_serial", table_name="unit", postgresql_where=sa.text("serial IS NOT NULL"))
    op.drop_table("unit")
    op.drop_table("shelf")
    op.drop_index("ix_purchase_line_part_id", table_name="purchase_line")
    op.drop_table("purchase_line")
    op.drop_table("position")
    op.drop_table("interchange")
    op.drop_index("ix_incident_page", table_name="incident")
    op.drop_index("ix_incident_asset_id", table_name="incident")
    op.drop_table("incident")
    op.drop_index("ix_asset_stay_site_id", table_name="asset_stay")
    op.drop_table("asset_stay")
    op.drop_table("setting")
    op.drop_index("ix_purchase_order_placed_on", table_name="purchase_order")
    op.drop_table("purchase_order")
    op.drop_table("part")
    op.drop_index("uq_model_revision_one_draft", table_name="model_revision", postgresql_where=sa.text("draft"))
    op.drop_table("model_revision")
    op.drop_table("lane")
    op.drop_index("ix_asset_model_id", table_name="asset")
    op.drop_table("asset")
    op.drop_table("user")
    op.drop_table("supplier")
    op.drop_index("uq_site_one_depot", table_name="site", postgresql_where=sa.text("is_depot"))
    op.drop_table("site")
    op.drop_index("ix_sign_in_attempt_login", table_name="sign_in_attempt")
    op.drop_table("sign_in_attempt")
    op.drop_table("device_model")
