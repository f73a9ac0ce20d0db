"""Webhooks: signed messages about deliveries that have ended."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.webhooks import (
    NewWebhookRead,
    WebhookCallRead,
    WebhookChange,
    WebhookCreate,
    WebhookRead,
)
from copper_sieve.services.webhooks import webhooks

router = APIRouter(prefix="/api/v1", tags=["webhooks"])


@router.get("/projects/{project}/webhooks")
def list_webhooks(project: str, context: ContextDep, page: PageDep) -> list[WebhookRead]:
    """List the webhooks of a project, oldest first."""
    found = page.of(webhooks.list_all(context, project), lambda one: one.id)
    return [WebhookRead.model_validate(one) for one in found]


@router.post("/projects/{project}/webhooks", status_code=201)
def add_webhook(project: str, body: WebhookCreate, context: ContextDep) -> NewWebhookRead:
    """Add a webhook to a project. The response contains its secret, which isn't shown again."""
    return NewWebhookRead.model_validate(webhooks.add(context, project, body.url, body.secret))


@router.patch("/webhooks/{webhook_id}")
def change_webhook(webhook_id: int, body: WebhookChange, context: ContextDep) -> WebhookRead:
    """Pause or resume a webhook."""
    found = webhooks.set_paused(context, webhook_id, paused=body.paused)
    return WebhookRead.model_validate(found)


@router.post("/webhooks/{webhook_id}/tests")
def test_webhook(webhook_id: int, context: ContextDep) -> WebhookRead:
    """Send a test message now and return the result."""
    return WebhookRead.model_validate(webhooks.send_test(context, webhook_id))


@router.get("/webhooks/{webhook_id}/calls")
def list_webhook_calls(
    webhook_id: int, context: ContextDep, before: int | None = None
) -> list[WebhookCallRead]:
    """List up to 50 calls, newest first; `before`: only calls before this id."""
    found = webhooks.calls(context, webhook_id, before)
    return [WebhookCallRead.model_validate(one) for one in found]


@router.post(
    "/webhooks/{webhook_id}/messages/{message_id}/sends", status_code=202, response_class=Response
)
def send_webhook_message(webhook_id: int, message_id: int, context: ContextDep) -> None:
    """Send a message again, with the same idempotency key."""
    webhooks.send_again(context, webhook_id, message_id)


@router.delete("/webhooks/{webhook_id}", status_code=204, response_class=Response)
def remove_webhook(webhook_id: int, context: ContextDep) -> None:
    """Remove a webhook with its messages."""
    webhooks.remove(context, webhook_id)
