# Queries of the embedded engine over the table sale (see engine/dialects_test.go): each is written in the dialect of every real server and
# gives the same there. A line is a query; what stands before " | " names the dialects that have no form for it.
SELECT abs(n - 3), ceil(price), ceiling(price), floor(price), sign(n - 2), sqrt(n), exp(n), ln(n), power(n, 2), pow(n, 3), mod(n, 3) FROM sale ORDER BY id
SELECT round(price), round(price, 1), round(kg, 1), trunc(price) FROM sale WHERE n > 0 ORDER BY id
SELECT acos(0.5), asin(0.5), atan(1), atan2(1, 2), cos(n), sin(n), tan(n), degrees(n), radians(n), pi(), log(n), log10(n), log2(n) FROM sale ORDER BY id
mysql | SELECT bit_and(n), bit_or(n), max(cbrt(n)), corr(n, price), covar_pop(n, price), covar_samp(n, price), regr_slope(price, n), regr_intercept(price, n) FROM sale
SELECT lower(farm), upper(farm), ucase(farm), lcase(farm), length(farm), len(farm), char_length(farm), reverse(farm), repeat(farm, 2), replace(farm, 'a', 'o') FROM sale ORDER BY id
mysql | SELECT character_length(farm), split_part(farm, 'a', 1), translate(farm, 'ab', 'xy'), concat_ws('-', farm, status), ltrim('xxa', 'x'), rtrim('axx', 'x'), trim('xax', 'x'), chr(65) FROM sale ORDER BY id
SELECT substr(farm, 2, 2), substring(farm, 2), substring(farm, 1, 3), left(farm, 2), right(farm, 2), lpad(farm, 9, '.'), rpad(farm, 9, '.'), strlen(farm) FROM sale ORDER BY id
SELECT trim(note), ltrim(note), rtrim(note), concat(farm, note, 'x'), farm || status FROM sale ORDER BY id
SELECT contains(farm, 'r'), instr(farm, 'r'), strpos(farm, 'l'), prefix(farm, 'A'), starts_with(farm, 'A'), suffix(farm, 'e'), ends_with(farm, 'e') FROM sale ORDER BY id
SELECT farm LIKE 'A%', farm ILIKE 'a%', farm NOT LIKE '%e', farm NOT ILIKE '%E', farm LIKE '%l\_e' ESCAPE '\' FROM sale ORDER BY id
SELECT coalesce(note, 'none'), ifnull(note, 'none'), nullif(status, 'ok'), if(n > 2, 'many', 'few') FROM sale ORDER BY id
SELECT CASE WHEN n > 3 THEN 'a' WHEN n > 1 THEN 'b' ELSE 'c' END, CASE status WHEN 'ok' THEN 1 END FROM sale ORDER BY id
SELECT count(*), count(note), count(DISTINCT farm), sum(kg), avg(price), min(day), max("at"), mean(n) FROM sale
SELECT stddev(price), stddev_samp(price), stddev_pop(price), var_pop(price), var_samp(price), variance(price) FROM sale
SELECT farm, count_if(n > 2), countif(n > 1), bool_and(n > 0), bool_or(n > 3), any_value(farm) FROM sale GROUP BY farm ORDER BY 1
SELECT count(*) FILTER (WHERE n > 2), sum(kg) FILTER (WHERE status = 'ok'), avg(price) FILTER (WHERE note IS NULL) FROM sale
mysql | SELECT median(price), quantile_cont(price, 0.25), quantile_disc(n, 0.5), quantile(n, 0.5), mode(status) FROM sale
mysql | SELECT arg_max(id, price * 1000 + id), arg_min(id, price * 1000 + id), max_by(farm, id), min_by(farm, id), array_agg(n ORDER BY id)[1] FROM sale
SELECT string_agg(farm, '; ' ORDER BY id), string_agg(DISTINCT status, ',' ORDER BY status) FROM sale
SELECT year(day), month(day), day(day), dayofmonth(day), quarter(day), hour("at"), minute("at"), dayofyear(day) FROM sale ORDER BY id
SELECT week(day), weekofyear(day), dayofweek(day), weekday(day), isodow(day), monthname(day), dayname(day), last_day(day) FROM sale ORDER BY id
SELECT extract(year FROM day), extract(month FROM "at"), date_part('quarter', day), date_part('dow', day), date_part('isodow', day), date_part('doy', day), date_part('day', day), date_part('hour', "at"), date_part('minute', "at"), date_part('week', day), date_part('epoch', "at"), epoch("at") FROM sale ORDER BY id
mysql | SELECT datepart('month', day), datetrunc('month', day), age(DATE '2031-03-05', day), current_localtimestamp() FROM sale WHERE id < 3 ORDER BY id
SELECT date_trunc('year', day), date_trunc('quarter', day), date_trunc('month', "at"), date_trunc('week', day), date_trunc('day', "at"), date_trunc('hour', "at"), date_trunc('minute', "at") FROM sale ORDER BY id
SELECT strftime(day, '%Y-%m'), strftime(day, '%d.%m.%y'), strftime("at", '%H:%M:%S'), strftime(day, '%b %Y'), strftime(day, 'week %V') FROM sale ORDER BY id
SELECT date_diff('day', day, DATE '2031-06-30'), date_diff('week', day, DATE '2031-06-30'), date_diff('month', day, DATE '2031-06-30'), date_diff('quarter', day, DATE '2031-06-30'), date_diff('year', day, DATE '2032-01-01') FROM sale ORDER BY id
SELECT date_diff('hour', "at", TIMESTAMP '2031-06-30 10:00:00'), date_diff('minute', "at", TIMESTAMP '2031-06-30 10:00:00'), date_diff('second', "at", TIMESTAMP '2031-06-30 10:00:00') FROM sale ORDER BY id
SELECT date_sub('day', "at", TIMESTAMP '2031-06-30 10:00:00'), date_sub('hour', "at", TIMESTAMP '2031-06-30 10:00:00'), date_sub('minute', "at", TIMESTAMP '2031-06-30 10:00:00') FROM sale ORDER BY id
postgres | SELECT date_sub('month', day, DATE '2031-06-29') FROM sale WHERE id <> 2 ORDER BY id
SELECT day + INTERVAL 1 MONTH, day - INTERVAL '3 days', "at" + INTERVAL 2 HOUR, day + INTERVAL 1 YEAR, day + INTERVAL 1 QUARTER, day + INTERVAL (n) DAY, date_add(day, INTERVAL 1 WEEK) FROM sale ORDER BY id
SELECT day + 7, day - 1, day - DATE '2031-01-01' FROM sale ORDER BY id
SELECT make_date(2031, month(day), 1) FROM sale ORDER BY id
SELECT today(), current_date, now(), get_current_timestamp()
SELECT n / 2, 7 / 2, sum(n) / count(*) FROM sale GROUP BY n ORDER BY 1
SELECT n // 2, n % 2, n ^ 2, n ** 2 FROM sale ORDER BY id
SELECT CAST(price AS INTEGER), CAST(n AS VARCHAR), CAST(n AS DOUBLE), CAST(price AS DECIMAL(8, 1)), n::BIGINT, CAST('2031-05-01' AS DATE), CAST(day AS TIMESTAMP) FROM sale WHERE id <> 4 ORDER BY id
SELECT regexp_matches(farm, '^A'), regexp_full_match(status, 'o.') FROM sale ORDER BY id
mysql | SELECT regexp_replace(farm, '[aeiou]', '_'), regexp_extract(farm, '[lr].') FROM sale ORDER BY id
SELECT note FROM sale ORDER BY note, id
SELECT note, id FROM sale ORDER BY note DESC, id
SELECT note, id FROM sale ORDER BY note NULLS FIRST, id DESC
SELECT id, note FROM sale ORDER BY 2 DESC NULLS LAST, 1
SELECT farm, sum(kg) AS total FROM sale GROUP BY farm ORDER BY total DESC, farm LIMIT 2
SELECT farm, sum(kg) FROM sale GROUP BY 1 HAVING sum(kg) > 20 ORDER BY 2
SELECT farm, status, count(*) FROM sale GROUP BY ALL ORDER BY 1, 2
SELECT farm, id, row_number() OVER (PARTITION BY farm ORDER BY id DESC) AS place FROM sale QUALIFY place = 1 ORDER BY farm
SELECT farm, id FROM sale QUALIFY row_number() OVER (PARTITION BY farm ORDER BY price DESC, id) = 1 ORDER BY id
SELECT id, rank() OVER (ORDER BY n), dense_rank() OVER (ORDER BY n), ntile(3) OVER (ORDER BY id), percent_rank() OVER (ORDER BY id), cume_dist() OVER (ORDER BY id) FROM sale ORDER BY id
SELECT id, lag(n) OVER (ORDER BY id), lead(n, 2) OVER (ORDER BY id), first_value(n) OVER (ORDER BY id), last_value(n) OVER (ORDER BY id ROWS BETWEEN UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING), nth_value(n, 2) OVER (ORDER BY id ROWS BETWEEN UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING), sum(n) OVER (ORDER BY id ROWS BETWEEN 2 PRECEDING AND CURRENT ROW) FROM sale ORDER BY id
WITH best AS (SELECT farm, max(price) AS price FROM sale GROUP BY farm) SELECT s.id FROM sale s JOIN best b USING (farm, price) ORDER BY 1
WITH RECURSIVE r AS (SELECT 1 AS i UNION ALL SELECT i + 1 FROM r WHERE i < 5) SELECT sum(i) FROM r
SELECT id FROM sale WHERE farm IN (SELECT farm FROM sale GROUP BY farm HAVING count(*) > 2) AND NOT EXISTS (SELECT 1 FROM sale x WHERE x.id = sale.id + 1 AND x.n > 3) ORDER BY id
SELECT id FROM sale WHERE n BETWEEN 2 AND 4 AND status IN ('ok', 'late') AND (note IS NULL OR price > 2.5) ORDER BY id
SELECT id FROM sale WHERE note IS DISTINCT FROM 'x' ORDER BY id
SELECT id FROM sale WHERE note IS NOT DISTINCT FROM NULL ORDER BY id
SELECT farm FROM sale UNION SELECT status FROM sale ORDER BY 1
SELECT farm FROM sale EXCEPT SELECT farm FROM sale WHERE n > 3 ORDER BY 1
SELECT farm FROM sale INTERSECT SELECT farm FROM sale WHERE n > 3 ORDER BY 1
SELECT DISTINCT Farm AS "Farm Name" FROM Sale ORDER BY "farm name"
mysql | SELECT DISTINCT ON (farm) farm, id FROM sale ORDER BY farm, id
mysql | SELECT a.id, b.id FROM sale a FULL JOIN (SELECT id FROM sale WHERE id < 3) b ON a.id = b.id ORDER BY 1, 2
mysql | SELECT farm, status, count(*), grouping(farm) FROM sale GROUP BY ROLLUP (farm, status) ORDER BY 1, 2, 3
mysql | SELECT i FROM generate_series(1, 4) AS g (i) ORDER BY i
mysql | SELECT x.a + x.b FROM (VALUES (1, 2), (3, 4)) AS x (a, b) ORDER BY 1
mysql | SELECT unnest(array_agg(n ORDER BY id)) FROM sale WHERE id < 4
SELECT 'it''s', 'a\b', "day" FROM sale WHERE id = 1
postgres,mysql | SELECT id FROM sale SEMI JOIN (SELECT 1 AS id) y USING (id)
postgres,mysql | SELECT list_value(1, 2)
postgres,mysql | SELECT * EXCLUDE (id) FROM sale
postgres,mysql | SELECT TRY_CAST(farm AS INTEGER) FROM sale
postgres,mysql | SELECT farm FROM sale USING SAMPLE 2 ROWS
SELECT position('l' IN farm) FROM sale ORDER BY id
mysql | SELECT count(*) FROM generate_series(1, 9, 2)
SELECT max(x.a) FROM (SELECT farm, avg(n) AS a FROM (SELECT farm, n FROM sale) GROUP BY farm) x
SELECT avg(a) FROM (SELECT farm, max(n) AS a FROM sale GROUP BY farm)
mysql | SELECT greatest(n, 3), least(n, 3, id), age(day) FROM sale ORDER BY id
SELECT chr(65), concat_ws('-', farm, status), second("at") FROM sale ORDER BY id
SELECT current_localtimestamp() > TIMESTAMP '2031-01-01'
SELECT farm, n FROM sale UNION ALL SELECT status, NULL FROM sale ORDER BY n DESC, 1 LIMIT 5
