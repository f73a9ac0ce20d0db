-- Names that were made longer than their rule allows, by a number after a long name: shortened where
-- they stand, in the definitions as well.

create temporary table long_name on commit drop as
select id, name, left(name, 99 - length(id::text)) || '_' || id as short
from texture_set where length(name) > 100;

update texture_set_history h
set definition = replace(h.definition::text, to_json(l.name)::text, to_json(l.short)::text)::json
from long_name l where h.set_id = l.id;

update texture_set t
set name = l.short,
  definition = replace(t.definition::text, to_json(l.name)::text, to_json(l.short)::text)::json
from long_name l where t.id = l.id;
