-- name: insert
insert into webhook (project_id, url, secret) values (%(project_id)s, %(url)s, %(secret)s)
returning id

-- name: list
-- Of a project, or one by its id, with the last call and the number of messages that wait.
select w.id, w.project_id, w.url, w.secret, w.created_at, w.failing_since, w.paused_at,
  c.called_at as last_called_at, c.error as last_error,
  (select count(*) from webhook_message m where m.webhook_id = w.id and m.state = 'waiting')
    as waiting
from webhook w left join lateral (
  select c.called_at, c.error from webhook_call c join webhook_message m on m.id = c.message_id
  where m.webhook_id = w.id order by c.id desc limit 1
) c on true
where (%(id)s::bigint is null or w.id = %(id)s)
  and (%(project_id)s::bigint is null or w.project_id = %(project_id)s)
order by w.id

-- name: remove
delete from webhook where id = %(id)s

-- name: set_paused
-- Resuming also makes everything due that waits.
update webhook set failing_since = null, paused_at = case when %(paused)s then now() end
where id = %(id)s

-- name: make_due
update webhook_message set next_at = now() where webhook_id = %(id)s and state = 'waiting'

-- name: unreported
-- Deliveries that have ended and about which no messages were written.
select d.id, d.project_id
from delivery d join delivery_now n on n.id = d.id
where not d.reported and n.state in ('done', 'failed', 'cancelled')
order by d.id limit 20

-- name: set_reported
update delivery set reported = %(reported)s where id = %(id)s and reported <> %(reported)s

-- name: add_message
insert into webhook_message (webhook_id, event, delivery_id, body)
values (%(webhook_id)s, %(event)s, %(delivery_id)s, %(body)s) returning id

-- name: take_due
-- The oldest message of each webhook that is due, put off for as long as its call may take, so that
-- a server that dies meanwhile doesn't lose it.
update webhook_message m
set next_at = now() + %(lease)s * interval '1 second', attempts = attempts + 1
from webhook w
where m.id in (
  select distinct on (o.webhook_id) o.id
  from webhook_message o join webhook v on v.id = o.webhook_id
  where o.state = 'waiting' and o.next_at <= now() and v.paused_at is null
    and o.webhook_id <> all(%(busy)s)
  order by o.webhook_id, o.id limit %(most)s
) and w.id = m.webhook_id
returning m.id, m.webhook_id, m.key, m.event, m.body, m.attempts, w.url, w.secret

-- name: take
update webhook_message m set attempts = attempts + 1 from webhook w
where m.id = %(id)s and w.id = m.webhook_id
returning m.id, m.webhook_id, m.key, m.event, m.body, m.attempts, w.url, w.secret

-- name: add_call
insert into webhook_call (message_id, seconds, status, error, excerpt)
select m.id, %(seconds)s, %(status)s, %(error)s, %(excerpt)s
from webhook_message m where m.id = %(message_id)s

-- name: set_message
update webhook_message set state = %(state)s, next_at = now() + %(wait)s * interval '1 second'
where id = %(id)s

-- name: set_failed
update webhook_message set state = 'failed' where id = %(id)s

-- name: note_success
update webhook set failing_since = null where id = %(id)s

-- name: note_failure
update webhook set failing_since = coalesce(failing_since, now()),
  paused_at = case
    when failing_since < now() - %(patience)s * interval '1 second' then coalesce(paused_at, now())
    else paused_at
  end
where id = %(id)s returning paused_at is not null as paused

-- name: prune
-- Only the last messages that don't wait are kept.
delete from webhook_message where id in (
  select id from webhook_message where webhook_id = %(id)s and state <> 'waiting'
  order by id desc offset %(most)s
)

-- name: calls
select c.id, c.message_id, m.webhook_id, m.event, m.delivery_id, m.key, c.called_at, c.seconds,
  c.status, c.error, c.excerpt, m.state
from webhook_call c join webhook_message m on m.id = c.message_id
where m.webhook_id = %(id)s and (%(before)s::bigint is null or c.id < %(before)s)
order by c.id desc limit %(most)s

-- name: send_again
update webhook_message set state = 'waiting', next_at = now()
where id = %(message_id)s and webhook_id = %(id)s
