-- Webhooks become an outbox: one message for each receiver and event, with attempts of its own.

alter table hook rename to webhook;
alter table webhook drop column last_called_at, drop column last_error;
-- failing_since: when the first of the calls failed that have all failed since; null: the last call
-- succeeded. paused_at: nothing is sent any more until somebody resumes it.
alter table webhook add column failing_since timestamptz, add column paused_at timestamptz;
create index webhook_project_id on webhook (project_id);

-- state: waiting until next_at; sent: the receiver answered with 2xx; failed: it isn't tried again.
-- key: sent as Idempotency-Key with every attempt. body: the exact text that is signed.
create table webhook_message (
  id bigint generated always as identity primary key,
  webhook_id bigint not null references webhook on delete cascade,
  key uuid not null default gen_random_uuid(),
  event text not null,
  delivery_id bigint references delivery on delete set null,
  body text not null,
  state text not null default 'waiting' check (state in ('waiting', 'sent', 'failed')),
  attempts integer not null default 0,
  next_at timestamptz not null default now(),
  created_at timestamptz not null default now()
);
create index webhook_message_waiting on webhook_message (next_at) where state = 'waiting';
create index webhook_message_webhook_id on webhook_message (webhook_id);
create index webhook_message_delivery_id on webhook_message (delivery_id);

-- One attempt. status: of the answer; null: there was none. excerpt: the beginning of the answer.
create table webhook_call (
  id bigint generated always as identity primary key,
  message_id bigint not null references webhook_message on delete cascade,
  called_at timestamptz not null default now(),
  seconds real not null,
  status integer,
  error text,
  excerpt text not null default ''
);
create index webhook_call_message_id on webhook_call (message_id);

-- reported: the messages about its end are in the outbox.
alter table delivery rename column told to reported;
alter table delivery drop column tell_attempts, drop column tell_after;
create index delivery_to_report on delivery (id) where not reported;
