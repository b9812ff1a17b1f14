# Queries of the embedded engine over the table sale that the oldest tried ClickHouse can express (see embedded.sql): each gives the same there,
# and every rule is among them. What stands before " | " names a dialect that has no form for a query.
SELECT abs(n - 3), ceil(price), ceiling(price), floor(price), sign(n - 2), sqrt(n), exp(n), ln(n), power(n, 2), pow(n, 3), mod(n, 3), cbrt(n) FROM sale ORDER BY id
SELECT round(price), round(price, 1), round(kg, 1), trunc(price), round(-2.5), trunc(-2.7) FROM sale WHERE n > 0 ORDER BY id
SELECT acos(0.5), asin(0.5), atan(1), cos(n), sin(n), tan(n), pi(), log(n), log10(n), log2(n), greatest(n, 3), least(n, 3) FROM sale ORDER BY id
SELECT lower(farm), upper(farm), ucase(farm), lcase(farm), length(farm), len(farm), char_length(farm), reverse(farm), replace(farm, 'a', 'o') FROM sale ORDER BY id
SELECT substr(farm, 2, 2), substring(farm, 2), substring(farm, 1, 3), left(farm, 2), strlen(farm), substr(farm, 3) FROM sale ORDER BY id
SELECT trim(note), ltrim(note), rtrim(note), concat(farm, note, 'x'), farm || status, trim('  x '), ltrim('  x '), rtrim(' x  ') FROM sale ORDER BY id
SELECT contains(farm, 'r'), instr(farm, 'r'), strpos(farm, 'l'), prefix(farm, 'A'), starts_with(farm, 'A'), suffix(farm, 'e'), ends_with(farm, 'e'), position('l' IN farm) FROM sale ORDER BY id
SELECT farm LIKE 'A%', farm ILIKE 'a%', farm NOT LIKE '%e', farm NOT ILIKE '%E' FROM sale ORDER BY id
SELECT coalesce(note, 'none'), ifnull(note, 'none'), nullif(status, 'ok'), if(n > 2, 'many', 'few') FROM sale ORDER BY id
SELECT CASE WHEN n > 3 THEN 'a' WHEN n > 1 THEN 'b' ELSE 'c' END, CASE status WHEN 'ok' THEN 1 END FROM sale ORDER BY id
SELECT count(*), count(note), count(DISTINCT farm), sum(kg), avg(price), avg(kg), min(day), max("at"), mean(n) FROM sale
SELECT count(*), count(note), sum(kg), avg(price), min(day), max("at") FROM sale WHERE n > 100
clickhouse | SELECT sum(DISTINCT n), avg(DISTINCT n) FROM sale
SELECT stddev(price), stddev_samp(price), stddev_pop(price), var_pop(price), var_samp(price), variance(price) FROM sale
SELECT farm, stddev(price), variance(price) FROM sale GROUP BY farm ORDER BY farm
SELECT farm, count_if(n > 2), countif(n > 1), bool_and(n > 0), bool_or(n > 3), any_value(farm) FROM sale GROUP BY farm ORDER BY 1
SELECT count(*) FILTER (WHERE n > 2), sum(kg) FILTER (WHERE status = 'ok'), avg(price) FILTER (WHERE note IS NULL) FROM sale
SELECT arg_max(id, price * 1000 + id), arg_min(id, price * 1000 + id), max_by(farm, id), min_by(farm, id) FROM sale
SELECT string_agg(farm, '; ') FROM sale WHERE id = 3
SELECT year(day), month(day), day(day), dayofmonth(day), quarter(day), hour("at"), minute("at"), second("at"), dayofyear(day) FROM sale ORDER BY id
SELECT week(day), weekofyear(day), dayofweek(day), weekday(day), isodow(day), last_day(day) FROM sale ORDER BY id
SELECT extract(year FROM day), extract(month FROM "at"), date_part('quarter', day), date_part('dow', day), date_part('isodow', day), date_part('doy', day), date_part('day', day), date_part('hour', "at"), date_part('minute', "at"), date_part('week', day), date_part('epoch', "at"), epoch("at") FROM sale ORDER BY id
SELECT date_trunc('year', day), date_trunc('quarter', day), date_trunc('month', "at"), date_trunc('week', day), date_trunc('day', "at"), date_trunc('hour', "at"), date_trunc('minute', "at") FROM sale ORDER BY id
SELECT strftime(day, '%Y-%m'), strftime(day, '%d.%m.%y'), strftime("at", '%H:%M:%S'), strftime("at", '%Y at %H:%M') FROM sale ORDER BY id
clickhouse | SELECT strftime(day, '%b %Y') FROM sale
SELECT date_diff('day', day, DATE '2031-06-30'), date_diff('week', day, DATE '2031-06-30'), date_diff('month', day, DATE '2031-06-30'), date_diff('quarter', day, DATE '2031-06-30'), date_diff('year', day, DATE '2032-01-01') FROM sale ORDER BY id
SELECT date_diff('hour', "at", TIMESTAMP '2031-06-30 10:00:00'), date_diff('minute', "at", TIMESTAMP '2031-06-30 10:00:00'), date_diff('second', "at", TIMESTAMP '2031-06-30 10:00:00') FROM sale ORDER BY id
SELECT day + INTERVAL 1 MONTH, day - INTERVAL '3 days', "at" + INTERVAL 2 HOUR, day + INTERVAL 1 YEAR, day + INTERVAL (n) DAY, day + INTERVAL 1 QUARTER FROM sale ORDER BY id
SELECT day + 7, day - 1, day - DATE '2031-01-01' FROM sale ORDER BY id
SELECT today(), current_date, now(), get_current_timestamp(), current_localtimestamp()
SELECT n / 2, 7 / 2, sum(n) / count(*) FROM sale GROUP BY n ORDER BY 1
SELECT n // 2, n % 2, n ^ 2, n ** 2 FROM sale ORDER BY id
SELECT CAST(price AS INTEGER), CAST(n AS VARCHAR), CAST(n AS DOUBLE), CAST(price AS DECIMAL(8, 3)), n::BIGINT, CAST('2031-05-01' AS DATE), CAST(day AS TIMESTAMP), CAST('12' AS BIGINT) FROM sale WHERE id <> 4 ORDER BY id
SELECT regexp_matches(farm, '^A') FROM sale ORDER BY id
SELECT note FROM sale ORDER BY note, id
SELECT note, id FROM sale ORDER BY note DESC, id
SELECT note, id FROM sale ORDER BY note NULLS FIRST, id DESC
SELECT id, note FROM sale ORDER BY 2 DESC NULLS LAST, 1
SELECT farm, sum(kg) AS total FROM sale GROUP BY farm ORDER BY total DESC, farm LIMIT 2
SELECT farm, sum(kg) FROM sale GROUP BY 1 HAVING sum(kg) > 20 ORDER BY 2
SELECT farm, status, count(*) FROM sale GROUP BY ALL ORDER BY 1, 2
SELECT id FROM sale WHERE farm IN (SELECT farm FROM sale GROUP BY farm HAVING count(*) > 2) ORDER BY id
SELECT id FROM sale WHERE price > (SELECT avg(price) FROM sale) ORDER BY id
SELECT id FROM sale WHERE n BETWEEN 2 AND 4 AND status IN ('ok', 'late') AND (note IS NULL OR price > 2.5) ORDER BY id
SELECT id FROM sale WHERE note IS DISTINCT FROM 'x' ORDER BY id
SELECT id FROM sale WHERE note IS NOT DISTINCT FROM NULL ORDER BY id
SELECT id FROM sale WHERE day >= DATE '2031-03-01' AND "at" < TIMESTAMP '2031-05-01 00:00:00' ORDER BY id
SELECT DISTINCT Farm AS "Farm Name" FROM Sale ORDER BY "farm name"
SELECT 'it''s', 'a\b', "day", true FROM sale WHERE id = 1
SELECT max(x.a) FROM (SELECT farm, avg(n) AS a FROM (SELECT farm, n FROM sale) GROUP BY farm) x
WITH best AS (SELECT farm, max(price) AS top FROM sale GROUP BY farm) SELECT farm, top FROM best WHERE top > 2 ORDER BY 1
WITH a AS (SELECT farm, n FROM sale), b AS (SELECT farm, sum(n) AS total FROM a GROUP BY farm) SELECT sum(total), count(*) FROM b
SELECT s.id, b.top FROM sale s JOIN (SELECT farm, max(price) AS top FROM sale GROUP BY farm) b ON s.farm = b.farm ORDER BY s.id
SELECT s.id, b.top FROM sale s LEFT JOIN (SELECT farm, max(price) AS top FROM sale WHERE n > 3 GROUP BY farm) b ON s.farm = b.farm ORDER BY s.id
SELECT status, count(*) AS many FROM sale WHERE NOT (n > 3) GROUP BY status HAVING count(*) > 0 ORDER BY many DESC, status LIMIT 3 OFFSET 1
SELECT farm, sum(kg) AS kg FROM sale GROUP BY farm ORDER BY kg
clickhouse | SELECT n + 1 AS n, n * 2 FROM sale
clickhouse | SELECT year(day) AS day, count(*) FROM sale WHERE day > DATE '2031-01-01' GROUP BY year(day)
clickhouse | SELECT id FROM sale WHERE EXISTS (SELECT 1 FROM sale x WHERE x.id = sale.id + 1)
clickhouse | SELECT id, rank() OVER (ORDER BY n) FROM sale
clickhouse | SELECT farm FROM sale UNION SELECT status FROM sale
clickhouse | SELECT CAST(price AS VARCHAR) FROM sale
clickhouse | SELECT median(price) FROM sale
clickhouse | SELECT DISTINCT ON (farm) farm, id FROM sale ORDER BY farm, id
SELECT id FROM sale WHERE "at" BETWEEN '2031-03-01' AND '2031-05-01' AND "at" >= '2031-02-01' AND day < '2031-06-01' ORDER BY id
