# Queries of PostgreSQL over the table sale: each gives the same here as there. What stands before " | " says that it has no form here.
SELECT date_trunc('month', day), extract(year FROM day), date_part('quarter', day), to_char(day, 'YYYY-MM'), to_char(at, 'DD.MM.YY HH24:MI:SS') FROM sale ORDER BY id
SELECT to_char(day, 'FMMonth YYYY'), to_char(day, 'Mon DD'), to_char(day, 'IYYY-IW'), to_char(day, 'YYYY"th year"') FROM sale ORDER BY id
SELECT to_date('05.03.2031', 'DD.MM.YYYY'), make_date(2031, 5, 1), DATE '2031-05-01' + 7, day - DATE '2031-01-01' FROM sale WHERE id = 1
SELECT day + INTERVAL '1 month', at - INTERVAL '36 hours', day + 1, age(DATE '2031-06-30', day) FROM sale ORDER BY id
SELECT now(), current_date, current_timestamp, localtimestamp
SELECT 7 / 2, n / 2, n / 2.0, count(*) / 3, sum(n) / count(*) FROM sale GROUP BY n ORDER BY n
SELECT -7 / 2, 7 % 3, mod(n, 3), n ^ 2, sign(n - 2), pi(), log(100), trunc(price) FROM sale ORDER BY id
SELECT count(*) FILTER (WHERE n > 2), sum(kg) FILTER (WHERE status = 'ok'), avg(price)::numeric(8, 2), round(avg(price)::numeric, 1) FROM sale
SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY price), percentile_disc(0.5) WITHIN GROUP (ORDER BY n), mode() WITHIN GROUP (ORDER BY status) FROM sale
SELECT string_agg(farm, ', ' ORDER BY id), string_agg(DISTINCT status, ',' ORDER BY status), bool_and(n > 0), bool_or(n > 3), every(n > 0) FROM sale
SELECT note, id FROM sale ORDER BY note, id
SELECT note, id FROM sale ORDER BY note DESC, id
SELECT note, id FROM sale ORDER BY note DESC NULLS LAST, id
SELECT DISTINCT ON (farm) farm, id FROM sale ORDER BY farm, price DESC, id
here | SELECT initcap(farm) FROM sale
SELECT left(farm, 2), right(farm, 2), split_part(farm, 'a', 1), strpos(farm, 'a'), position('l' IN farm), char_length(farm), length(note), btrim(' x '), reverse(farm), repeat('a', 2), lpad(farm, 8, '.'), rpad(farm, 8), rpad(farm, 9, '.'), lpad(farm, 7), chr(65), starts_with(farm, 'A') FROM sale ORDER BY id
SELECT concat(farm, note), concat_ws('-', farm, note), farm || '!', greatest(n, 3, NULL), least(n, 3) FROM sale ORDER BY id
SELECT farm ~ '^A', farm !~ 'e$', farm ILIKE 'a%', regexp_replace(farm, '[aeiou]', '_') FROM sale ORDER BY id
SELECT id, rank() OVER w, sum(kg) OVER (w ROWS BETWEEN 1 PRECEDING AND CURRENT ROW) FROM sale WINDOW w AS (ORDER BY id) ORDER BY id
SELECT stddev(price), stddev_pop(price), stddev_samp(price), variance(price), var_pop(price), var_samp(price), corr(price, n) FROM sale
SELECT farm, count(*) FROM public.sale GROUP BY 1 ORDER BY 2 DESC, 1 FETCH FIRST 2 ROWS ONLY
SELECT a.id FROM sale a LEFT JOIN LATERAL (SELECT max(b.n) AS top FROM sale b WHERE b.farm = a.farm) x ON true WHERE a.n = x.top ORDER BY 1
SELECT generate_series FROM generate_series(1, 3) ORDER BY 1
SELECT x FROM unnest(ARRAY[3, 1, 2]) AS x ORDER BY x
SELECT date(at), (array_agg(farm ORDER BY id))[1] FROM sale GROUP BY 1 ORDER BY 1
SELECT id FROM sale WHERE note IS DISTINCT FROM 'x' AND status = ANY (ARRAY['ok', 'late']) ORDER BY id
WITH m AS (SELECT date_trunc('month', day)::date AS month, sum(kg) AS kg FROM sale GROUP BY 1) SELECT month, kg - lag(kg) OVER (ORDER BY month) FROM m ORDER BY 1
SELECT CASE WHEN n > 2 THEN 'many' ELSE 'few' END AS size, count(*) FROM sale GROUP BY size ORDER BY size
SELECT coalesce(note, 'none'), nullif(status, 'ok'), CAST(n AS text), n::float / 2 FROM sale ORDER BY id
SELECT farm, status, count(*) FROM sale GROUP BY GROUPING SETS ((farm), (status), ()) ORDER BY 1, 2, 3
SELECT age(day), date_part('month', day), regexp_replace(farm, 'e', 'E') FROM sale ORDER BY id
SELECT count(*) FROM generate_series(1, 9, 2)
SELECT farm, count(*) AS n, round(100.0 * count(*) / sum(count(*)) OVER (), 1) AS share FROM sale GROUP BY farm ORDER BY n DESC, farm
SELECT to_char(date_trunc('quarter', day), 'YYYY-MM-DD') AS q, sum(kg) FROM sale GROUP BY 1 ORDER BY 1
SELECT id, (day + INTERVAL '2 weeks')::date AS due FROM sale WHERE day BETWEEN '2031-01-01' AND '2031-03-31' ORDER BY id
SELECT farm, max(price) - min(price) AS spread FROM sale GROUP BY farm HAVING count(*) >= 2 ORDER BY spread DESC, farm
SELECT coalesce(sum(kg) FILTER (WHERE EXTRACT(MONTH FROM day) = 3), 0)::int AS march FROM sale
SELECT s.farm, s.id FROM sale s JOIN (SELECT farm, max(day) AS day FROM sale GROUP BY farm) l ON l.farm = s.farm AND l.day = s.day ORDER BY 1
SELECT id, n::numeric / 3 AS third, n / 3::float AS f, (n * 100) / 7 AS w FROM sale ORDER BY id
SELECT extract(epoch FROM (at - TIMESTAMP '2031-01-01 00:00:00')) / 3600 AS hours FROM sale ORDER BY id
SELECT extract(dow FROM day) AS dow, extract(isodow FROM day) AS iso, extract(week FROM day) AS week, extract(doy FROM day) AS doy FROM sale ORDER BY id
SELECT date_trunc('week', at) AS week, avg(n) AS n FROM sale GROUP BY 1 ORDER BY 1
SELECT DISTINCT upper(substring(farm from 1 for 3)) AS k FROM sale ORDER BY k
SELECT array_to_string(array_agg(id ORDER BY id), '-') FROM sale
SELECT farm, sum(sum(kg)) OVER (ORDER BY farm) AS run FROM sale GROUP BY farm ORDER BY farm
SELECT overlay(farm placing 'XX' from 2 for 1) FROM sale ORDER BY id
SELECT EXISTS (SELECT 1 FROM sale WHERE n > 4) AS any, NOT EXISTS (SELECT 1 FROM sale WHERE n > 9) AS none
SELECT (SELECT count(*) FROM sale) / (SELECT count(DISTINCT farm) FROM sale) AS per_farm
SELECT cast(avg(price) AS numeric(6,2)) AS a, ceil(avg(price)) AS b, floor(sum(kg)) AS c FROM sale WHERE status <> 'void'
SELECT id FROM sale WHERE (farm, n) IN (('Alder', 1), ('Cole', 4)) ORDER BY id
here | SELECT make_interval(days => 3) + DATE '2031-01-01'
here | SELECT count(*) FROM sale WHERE note SIMILAR TO '(x|z)'
SELECT overlay(farm placing 'XX' from 2) FROM sale ORDER BY id
SELECT farm, status, sum(kg) AS kg FROM sale GROUP BY ROLLUP (farm, status) ORDER BY 1, 2
SELECT count(*) FILTER (WHERE status = 'ok')::float / count(*) AS share FROM sale
SELECT id, age(timestamp '2031-07-01', at) > interval '3 months' AS old FROM sale ORDER BY id
SELECT date_part('day', timestamp '2031-07-01' - at) AS days FROM sale ORDER BY id
SELECT lower(left(farm, 1)) || substr(farm, 2) AS f FROM sale ORDER BY id
SELECT * FROM (SELECT id, ntile(4) OVER (ORDER BY kg DESC) AS q FROM sale) s WHERE q = 1 ORDER BY id
SELECT farm, (sum(kg) / NULLIF(sum(n), 0))::numeric(10, 3) AS r FROM sale GROUP BY farm ORDER BY r DESC NULLS LAST
WITH RECURSIVE d(day) AS (SELECT DATE '2031-01-01' UNION ALL SELECT (day + INTERVAL '1 month')::date FROM d WHERE day < '2031-06-01') SELECT d.day, count(s.id) FROM d LEFT JOIN sale s ON date_trunc('month', s.day) = d.day GROUP BY 1 ORDER BY 1
SELECT generate_series(1, 3) AS i, 'x' AS x
SELECT DISTINCT ON (status) status, farm FROM sale WHERE status IS NOT NULL ORDER BY status, kg DESC
SELECT EXTRACT(YEAR FROM day)::int * 100 + EXTRACT(MONTH FROM day)::int AS ym, count(*) FROM sale GROUP BY ym ORDER BY ym
SELECT first_value(farm) OVER (PARTITION BY status ORDER BY kg DESC) AS top FROM sale ORDER BY id
SELECT trim(both 'A' from farm), ltrim(farm, 'A'), cast(id as varchar(3)) FROM sale ORDER BY id
SELECT round(avg(price)::numeric, 2), round(stddev_samp(price)::numeric, 3) FROM sale
here | SELECT to_char(kg, 'FM999990.00') AS kg FROM sale
SELECT rtrim(farm, 'er') FROM sale ORDER BY id
SELECT date_trunc('month', day)::date AS m, count(*) FILTER (WHERE status = 'ok') AS ok, count(*) AS n FROM sale GROUP BY 1 ORDER BY 1
SELECT farm, avg(kg)::numeric(10,2) AS kg FROM sale GROUP BY farm HAVING avg(kg) > 10 ORDER BY kg DESC
SELECT id, day - lag(day) OVER (ORDER BY day) AS gap FROM sale ORDER BY day
SELECT id FROM sale WHERE day >= CURRENT_DATE - INTERVAL '6 months' ORDER BY id
SELECT string_agg(DISTINCT farm, ' / ' ORDER BY farm) AS farms FROM sale
SELECT concat(upper(left(status, 1)), lower(substring(status, 2))) AS s, sum(n) FROM sale WHERE status IS NOT NULL GROUP BY 1 ORDER BY 1
SELECT farm, percentile_cont(0.9) WITHIN GROUP (ORDER BY kg) AS p90 FROM sale GROUP BY farm ORDER BY farm
SELECT id, CASE WHEN note IS NULL OR trim(note) = '' THEN 'none' ELSE note END AS note FROM sale ORDER BY id
SELECT extract(year FROM day) AS y, extract(quarter FROM day) AS q, sum(kg) FROM sale GROUP BY 1, 2 ORDER BY 1, 2
SELECT a.farm FROM sale a WHERE NOT EXISTS (SELECT 1 FROM sale b WHERE b.farm = a.farm AND b.status = 'void') GROUP BY a.farm ORDER BY 1
SELECT sum(kg * price) / sum(kg) AS weighted, sum(n) / 4 AS quarter, 10 % 4 AS r FROM sale
SELECT row_number() OVER (ORDER BY kg DESC NULLS LAST) AS r, farm FROM sale ORDER BY r LIMIT 3
SELECT to_char(at, 'HH24:MI') AS t, to_char(day, 'Dy') AS d FROM sale ORDER BY id
SELECT coalesce(nullif(note, ''), 'n/a') AS note, count(*) FROM sale GROUP BY 1 ORDER BY 2 DESC, 1
SELECT farm FROM sale WHERE farm LIKE '%e%' INTERSECT SELECT farm FROM sale WHERE n > 2 ORDER BY 1
SELECT position('e' in farm) > 0 AS has, count(*) FROM sale GROUP BY 1 ORDER BY 1
SELECT date '2031-06-30' - max(day) AS since FROM sale
SELECT min(at)::time AS first, max(at)::date AS last FROM sale
SELECT round(sum(kg)) AS kg, round(avg(price)::numeric, 1) AS price, ceil(avg(n)) AS n FROM sale
SELECT length(farm) AS l, array_length(array_agg(id), 1) AS c FROM sale GROUP BY 1 ORDER BY 1
