"""The names by which scripts and notebooks plan: `plan`, and what it returns and raises."""

from __future__ import annotations

from kivant.core.motion.builder import plan
from kivant.core.motion.plan import AxisPlan, Plan, PlanError, PlannedBlock

__all__ = ["AxisPlan", "Plan", "PlanError", "PlannedBlock", "plan"]
