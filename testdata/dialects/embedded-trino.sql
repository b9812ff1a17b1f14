# Queries of the embedded engine over the table sale for rules of Trino that no query of the other files tries alone (see engine/trino_test.go).
SELECT acos(0.5), asin(0.5), atan(1), cos(n), sin(n), tan(n), cbrt(n), pi(), log(n), log10(n), log2(n) FROM sale ORDER BY id
SELECT corr(n, price), covar_pop(n, price), covar_samp(n, price) FROM sale
SELECT lower(farm), lcase(farm), upper(farm), ucase(farm), len(farm), reverse(farm), replace(farm, 'a', 'o'), left(farm, 2), lpad(farm, 9, '.'), rpad(farm, 9, '.') FROM sale ORDER BY id
SELECT split_part(farm, 'a', 1), concat_ws('-', farm, status), substring(farm, 2, 2), substring(farm, 2), substr(farm, 2, 2), substr(farm, 3), greatest(n, 3), least(n, 3) FROM sale ORDER BY id
SELECT string_agg(farm, '; ' ORDER BY id) FROM sale
SELECT week(day), weekofyear(day), dayofweek(day), weekday(day), isodow(day), last_day(day), second("at") FROM sale ORDER BY id
SELECT date_part('year', day), date_part('quarter', day), date_part('month', day), date_part('dow', day), date_part('isodow', day), date_part('doy', day), date_part('day', day), date_part('hour', "at"), date_part('minute', "at"), date_part('week', day), date_part('epoch', "at"), epoch("at") FROM sale ORDER BY id
SELECT strftime(day, '%Y-%m'), strftime(day, '%d.%m.%y'), strftime("at", '%H:%M:%S'), strftime(day, '%b %Y') FROM sale ORDER BY id
SELECT date_diff('day', day, DATE '2031-06-30'), date_diff('week', day, DATE '2031-06-30'), date_diff('month', day, DATE '2031-06-30'), date_diff('quarter', day, DATE '2031-06-30'), date_diff('year', day, DATE '2032-01-01') FROM sale ORDER BY id
SELECT date_diff('hour', "at", TIMESTAMP '2031-06-30 10:00:00'), date_diff('minute', "at", TIMESTAMP '2031-06-30 10:00:00'), date_diff('second', "at", TIMESTAMP '2031-06-30 10:00:00') FROM sale ORDER BY id
SELECT day + INTERVAL 1 MONTH, day - INTERVAL '3 days', "at" + INTERVAL 2 HOUR, day + INTERVAL 1 YEAR, day + INTERVAL 1 QUARTER, day + INTERVAL (n) DAY FROM sale ORDER BY id
SELECT regexp_matches(farm, '^A') FROM sale ORDER BY id
SELECT farm, status, count(*) FROM sale GROUP BY ROLLUP (farm, status) ORDER BY 1, 2, 3
SELECT current_localtimestamp() > TIMESTAMP '2031-01-01', today(), now()
SELECT array_agg(n ORDER BY id) FROM sale
SELECT TRY_CAST(farm AS INTEGER), TRY_CAST('7' AS BIGINT) FROM sale
SELECT avg(n), mean(n), stddev(price), variance(price), any_value(status), bool_and(n > 0), bool_or(n > 3), count_if(n > 2), countif(n > 1) FROM sale WHERE status = 'ok'
SELECT max_by(farm, id), min_by(farm, id), arg_max(id, price * 1000 + id), arg_min(id, price * 1000 + id) FROM sale
