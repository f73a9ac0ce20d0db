-- name: insert_source
-- Kept once: importing the same bytes again only notes when (a new row has no xmax).
insert into source (sha256, name, bytes, facts, thumbnail)
values (%(sha256)s, %(name)s, %(bytes)s, %(facts)s, %(thumbnail)s)
on conflict (sha256) do update set imported_at = now() returning xmax = 0 as is_new

-- name: insert_chunk
insert into source_chunk (sha256, n, data) values (%(sha256)s, %(n)s, %(data)s)

-- name: get_source
select sha256, name, bytes, facts from source where sha256 = %(sha256)s and not facts ? 'model'

-- name: get_thumbnail
select thumbnail from source where sha256 = %(sha256)s

-- name: get_chunk
select data from source_chunk where sha256 = %(sha256)s and n = %(n)s

-- name: source_sizes
select sha256, coalesce((facts ->> 'width')::int, 0) as width,
  coalesce((facts ->> 'height')::int, 0) as height
from source where sha256 = any(%(sha256s)s)

-- name: source_measures
select sha256, facts -> 'tiling' as tiling, facts -> 'light' as light
from source where sha256 = any(%(sha256s)s) and facts ? 'tiling'

-- name: set_decoded
update source set thumbnail = %(thumbnail)s, facts = facts || %(facts)s where sha256 = %(sha256)s
