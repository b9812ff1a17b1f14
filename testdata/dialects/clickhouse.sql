# Queries of ClickHouse over the table sale: each gives the same here as there. What stands before " | " says that it has no form here.
SELECT toYear(day), toMonth(day), toDayOfMonth(day), toQuarter(day), toHour(at), toMinute(at), toDayOfWeek(day) FROM sale ORDER BY id
SELECT toStartOfMonth(day), toStartOfQuarter(day), toStartOfYear(day), toMonday(day), toStartOfDay(at), toStartOfHour(at) FROM sale ORDER BY id
SELECT toYYYYMM(day), toYYYYMMDD(day), toDate(at), toDate('2031-05-01'), toDateTime('2031-05-01 10:00:00'), toString(day) FROM sale ORDER BY id
SELECT addDays(day, 3), addMonths(day, 1), addWeeks(day, 1), addYears(day, 1), subtractDays(day, 3), subtractMonths(day, 1), subtractYears(day, 1) FROM sale ORDER BY id
SELECT day + INTERVAL 1 MONTH, day - INTERVAL 3 DAY, at + INTERVAL 2 HOUR, day + 7 FROM sale ORDER BY id
SELECT dateDiff('day', day, toDate('2031-06-30')), dateDiff('month', day, toDate('2031-06-30')), dateDiff('year', day, toDate('2032-06-30')), dateDiff('quarter', day, toDate('2031-06-30')), dateDiff('week', day, toDate('2031-06-30')) FROM sale ORDER BY id
SELECT dateDiff('hour', at, toDateTime('2031-06-30 10:00:00')), dateDiff('minute', at, toDateTime('2031-06-30 10:00:00')) FROM sale ORDER BY id
SELECT formatDateTime(day, '%Y-%m'), formatDateTime(at, '%d.%m.%y %H'), formatDateTime(at, '%F %T'), formatDateTime(at, '%R') FROM sale ORDER BY id
SELECT today(), yesterday(), now()
SELECT count(), count(note), uniq(farm), uniqExact(status), sum(kg), min(day), max(at) FROM sale
SELECT count(*) AS c, avg(price), any(status) FROM sale WHERE status = 'ok'
SELECT sumIf(n, status = 'ok'), countIf(n > 2), avgIf(price, n > 2), maxIf(n, status = 'late'), minIf(n, status = 'late') FROM sale
SELECT farm, sumIf(n, status = 'void') AS void, countIf(status = 'void') AS voids FROM sale GROUP BY farm ORDER BY farm
SELECT farm, sum(kg) AS total FROM sale GROUP BY farm HAVING total > 20 ORDER BY total DESC LIMIT 2
SELECT farm, count() AS c FROM sale WHERE farm != 'Dell' GROUP BY farm ORDER BY c DESC, farm LIMIT 1, 2
SELECT argMax(id, day), argMin(farm, day), stddevPop(price), stddevSamp(price), varPop(price), varSamp(price) FROM sale
SELECT median(price) FROM sale WHERE id <= 3
SELECT if(n > 2, 'many', 'few'), multiIf(n > 3, 'a', n > 1, 'b', 'c'), ifNull(note, 'none'), isNull(note), isNotNull(note), coalesce(note, farm), nullIf(status, 'ok') FROM sale ORDER BY id
SELECT CASE WHEN n > 3 THEN 'a' ELSE 'b' END, CASE status WHEN 'ok' THEN 1 ELSE 0 END FROM sale ORDER BY id
SELECT lower(farm), upper(farm), length(farm), lengthUTF8(farm), substring(farm, 2, 2), reverseUTF8(farm), lowerUTF8(farm), upperUTF8(farm), substringUTF8(farm, 2, 2) FROM sale ORDER BY id
SELECT concat(farm, '-', status), farm || status, empty(farm), notEmpty(farm), startsWith(farm, 'A'), endsWith(farm, 'e'), char_length(farm) FROM sale ORDER BY id
SELECT replaceAll(farm, 'o', '0'), replaceRegexpAll(farm, '[aeiou]', '_'), position(farm, 'l'), replace(farm, 'l', 'L') FROM sale ORDER BY id
SELECT farm LIKE 'A%', farm NOT LIKE '%e', n IN (1, 2), n NOT IN (1, 2), n BETWEEN 2 AND 4 FROM sale ORDER BY id
SELECT toInt32(price), toInt64(price), toFloat64(n), toString(n), toInt64('12') FROM sale ORDER BY id
SELECT intDiv(n, 2), n % 2, modulo(n, 3), plus(n, 1), minus(n, 1), multiply(n, 2), divide(n, 2), n / 2 FROM sale ORDER BY id
SELECT abs(n - 3), floor(price), ceil(price), sqrt(n), pow(n, 2), power(n, 2), exp(n), log(n), log2(n), log10(n), greatest(n, 3), least(n, 3) FROM sale ORDER BY id
SELECT note FROM sale ORDER BY note, id
SELECT note, id FROM sale ORDER BY note DESC, id
SELECT `farm`, "status" FROM `sale` WHERE `farm` = 'Alder' ORDER BY `id`
SELECT 'it\'s', 'a\\b', 'x' AS y
SELECT DISTINCT farm FROM sale ORDER BY farm
SELECT id FROM sale WHERE farm IN (SELECT farm FROM sale GROUP BY farm HAVING count() > 2) ORDER BY id
SELECT id FROM sale WHERE price > (SELECT avg(price) FROM sale) ORDER BY id
SELECT x.farm, x.total FROM (SELECT farm, sum(n) AS total FROM sale GROUP BY farm) AS x WHERE x.total > 3 ORDER BY x.farm
SELECT s.id, b.top FROM sale AS s INNER JOIN (SELECT farm, max(price) AS top FROM sale GROUP BY farm) AS b ON s.farm = b.farm ORDER BY s.id
SELECT s.id, b.top FROM sale AS s LEFT JOIN (SELECT farm, max(price) AS top FROM sale WHERE n > 3 GROUP BY farm) AS b ON s.farm = b.farm ORDER BY s.id
SELECT toStartOfMonth(day) AS month, sum(kg) AS total FROM sale WHERE day >= '2031-01-01' AND day < '2031-04-01' GROUP BY month ORDER BY month
SELECT toYear(day) AS y, toMonth(day) AS m, count() AS c FROM sale GROUP BY y, m ORDER BY y, m
SELECT farm, groupArray(n) FROM sale WHERE farm = 'Dell' GROUP BY farm
SELECT round(price, 1), round(kg, 1) FROM sale WHERE id IN (1, 3) ORDER BY id
SELECT id FROM sale WHERE at >= toDateTime('2031-03-01 00:00:00') AND at < now() ORDER BY id
SELECT id FROM sale WHERE day >= today() - 100 ORDER BY id
SELECT id FROM sale WHERE day > subtractMonths(today(), 3) ORDER BY id
SELECT quantile(0.5)(price) FROM sale WHERE id <= 3
SELECT sum(n) AS n FROM sale WHERE status = 'ok'
SELECT n + 1 AS m, m * 2 AS twice FROM sale ORDER BY id
SELECT farm, count() FROM sale GROUP BY farm ORDER BY count() DESC, farm LIMIT 2
no | SELECT sum(n), count() FROM sale PREWHERE n > 1 WHERE status = 'ok'
no | SELECT farm, id FROM sale ORDER BY id DESC LIMIT 1 BY farm
no | SELECT groupUniqArray(status) FROM sale
no | SELECT n + 1 AS n, n * 2 AS twice FROM sale ORDER BY id
no | SELECT uniqCombined(farm) FROM sale
SELECT farm, sum(kg) AS kg FROM sale GROUP BY farm ORDER BY kg DESC
no | SELECT toStartOfMonth(day) AS day, count() FROM sale WHERE day > toDate('2031-01-15') GROUP BY day
SELECT id FROM sale WHERE startsWith(farm, 'A') AND notEmpty(status) AND NOT empty(farm) ORDER BY id
SELECT countIf(endsWith(farm, 'e')), sum(isNull(note)) FROM sale
SELECT id FROM sale WHERE farm GLOBAL IN (SELECT farm FROM sale WHERE n > 3) ORDER BY id
SELECT s.id, b.top FROM sale AS s ALL INNER JOIN (SELECT farm, max(price) AS top FROM sale GROUP BY farm) AS b ON s.farm = b.farm ORDER BY s.id
no | SELECT s.id, b.top FROM sale AS s ANY LEFT JOIN (SELECT farm, max(price) AS top FROM sale GROUP BY farm) AS b ON s.farm = b.farm ORDER BY s.id
SELECT id FROM sale WHERE status == 'ok' ORDER BY id
SELECT toDayOfYear(day), toISOWeek(day), toISOYear(day), toSecond(at), toStartOfISOYear(day) FROM sale ORDER BY id
SELECT toStartOfMinute(at), toStartOfFiveMinute(at), toStartOfFifteenMinutes(at), toRelativeMonthNum(day) - toRelativeMonthNum(toDate('2030-01-01')) AS months FROM sale ORDER BY id
SELECT toRelativeYearNum(day) - 2000, toRelativeQuarterNum(day) - toRelativeQuarterNum(toDate('2030-01-01')), toRelativeDayNum(day), toRelativeHourNum(at), toRelativeMinuteNum(at), toRelativeSecondNum(at), toUnixTimestamp(at), toYYYYMMDDhhmmss(at) FROM sale ORDER BY id
SELECT arrayStringConcat(groupArray(status), ','), arrayStringConcat(groupArray(farm)) FROM sale WHERE id = 1
SELECT arraySort(groupArray(n)), arrayReverseSort(groupArray(n)), arraySum(groupArray(n)), arrayUniq(groupArray(n)), has(groupArray(n), 4) FROM sale
SELECT farm, max(price) - min(price) AS spread FROM sale GROUP BY farm HAVING count() > 1 ORDER BY spread DESC
SELECT round(sum(kg) / sum(n), 2) AS ratio FROM sale
SELECT toDecimal32(price, 2), toDecimal64(price, 2), toDecimal128(price, 1), toFloat32(n), toUInt8(n), toUInt16(n), toUInt32(n), toUInt64(n), toInt8(n), toInt16(price) FROM sale ORDER BY id
SELECT toInt64OrNull(farm), toInt64OrZero('12'), toFloat64OrNull('1.5'), toFloat64OrZero(farm), toInt32OrNull('x'), toInt32OrZero('7') FROM sale ORDER BY id
no | SELECT quantileExact(0.5)(n), quantiles(0.5, 0.9)(n) FROM sale
SELECT farm, countDistinct(status), uniqIf(status, n > 1), uniqExactIf(status, n > 1) FROM sale GROUP BY farm ORDER BY farm
SELECT farm, COUNT(DISTINCT status) AS kinds FROM sale GROUP BY farm ORDER BY farm
SELECT * FROM (SELECT farm, count() AS c FROM sale GROUP BY farm) ORDER BY c DESC, farm LIMIT 3
no | SELECT farm, sum(n) AS total FROM sale GROUP BY farm WITH TOTALS ORDER BY farm
SELECT farm, status, sum(n) FROM sale GROUP BY farm, status ORDER BY farm, status LIMIT 5 OFFSET 2
SELECT formatDateTime(toStartOfMonth(day), '%Y/%m') AS month, round(avg(price), 2) AS p FROM sale GROUP BY month ORDER BY month
SELECT countIf(status = 'ok') / count() AS rate FROM sale
SELECT id, toDate('2031-06-30') - day AS age FROM sale ORDER BY id
SELECT anyLast(farm), anyIf(farm, id = 1) FROM sale WHERE id = 1
SELECT argMaxIf(id, day, n > 1), argMinIf(id, day, n > 1), medianIf(price, id <= 3), groupArrayIf(n, id = 4) FROM sale
SELECT positionCaseInsensitive(farm, 'A'), positionUTF8(farm, 'l'), locate(farm, 'l'), match(farm, '^[AB]'), replaceRegexpOne(farm, '[aeiou]', '_') FROM sale ORDER BY id
SELECT splitByChar('-', '2031-05-01'), splitByString('--', 'a--b'), lcase(farm), ucase(farm), mid(farm, 2, 2) FROM sale ORDER BY id
SELECT farm FROM sale WHERE lower(farm) LIKE '%o%' UNION ALL SELECT status FROM sale WHERE n = 5
SELECT toMonth(day) IN (1, 2, 3) AS first_quarter, count() FROM sale GROUP BY first_quarter ORDER BY first_quarter
SELECT substring(farm, 1, 1) AS letter, avg(n) FROM sale GROUP BY letter ORDER BY letter
SELECT addHours(at, 3), addMinutes(at, 5), addSeconds(at, 9), subtractHours(at, 1), subtractMinutes(at, 1), subtractSeconds(at, 1), subtractWeeks(day, 1) FROM sale ORDER BY id
SELECT intDivOrZero(n, 2), exp2(n), exp10(n), cbrt(n), sin(n), cos(n), tan(n), asin(0.5), acos(0.5), atan(n), pi(), trunc(price), negate(n) FROM sale ORDER BY id
SELECT assumeNotNull(status), toNullable(status), materialize(1), equals(n, 2), notEquals(n, 2), less(n, 2), greater(n, 2), lessOrEquals(n, 2), greaterOrEquals(n, 2) FROM sale ORDER BY id
SELECT covarPop(n, price), covarSamp(n, price), corr(n, price) FROM sale
SELECT sum(n * price) AS revenue, count() AS orders, revenue / orders AS mean FROM sale
SELECT min(day), max(day), max(day) - min(day) FROM sale
SELECT toYear(day) AS year, toQuarter(day) AS quarter, sum(kg) AS total FROM sale GROUP BY year, quarter ORDER BY year, quarter
SELECT uniq(farm) AS farms, uniqExact(status) AS statuses FROM sale WHERE day BETWEEN toDate('2031-01-01') AND toDate('2031-03-31')
SELECT farm, countIf(status = 'late') * 100.0 / count() AS late_share FROM sale GROUP BY farm ORDER BY late_share DESC, farm
SELECT toMonday(day) AS week, count() AS n_sales FROM sale GROUP BY week ORDER BY week
SELECT farm FROM sale GROUP BY farm HAVING sum(n) > (SELECT avg(n) FROM sale) ORDER BY farm
SELECT multiIf(price < 2, 'cheap', price < 3, 'mid', 'dear') AS band, count() AS c FROM sale GROUP BY band ORDER BY band
SELECT farm, argMax(status, at) AS last_status FROM sale GROUP BY farm ORDER BY farm
SELECT count() FROM sale WHERE note IS NULL OR note = ''
SELECT id, dateDiff('day', day, today()) AS age FROM sale WHERE dateDiff('day', day, today()) > 60 ORDER BY age DESC
SELECT formatDateTime(at, '%Y-%m-%d %H:00:00') AS hour, count() FROM sale GROUP BY hour ORDER BY hour
SELECT toDate(at) AS d, max(price) FROM sale GROUP BY d ORDER BY d LIMIT 4
SELECT farm, round(avg(price), 2) AS p, round(stddevPop(price), 3) AS s FROM sale GROUP BY farm ORDER BY farm
SELECT lower(substring(farm, 1, 3)) AS code, count() FROM sale GROUP BY code ORDER BY code
SELECT farm, sum(n) FROM sale WHERE farm IN ('Alder', 'Cole') GROUP BY farm ORDER BY farm DESC
SELECT id FROM sale WHERE toDayOfWeek(day) >= 6 ORDER BY id
SELECT farm, ifNull(max(note), '-') AS n1 FROM sale GROUP BY farm ORDER BY farm
SELECT toInt32(toYYYYMM(day)) AS ym, sum(kg) AS total FROM sale GROUP BY ym HAVING total > 5 ORDER BY ym
SELECT concat(toString(toYear(day)), '-Q', toString(toQuarter(day))) AS q, count() FROM sale GROUP BY q ORDER BY q
SELECT a.farm, a.total / b.all AS share FROM (SELECT farm, sum(n) AS total, 1 AS k FROM sale GROUP BY farm) AS a INNER JOIN (SELECT sum(n) AS all, 1 AS k FROM sale) AS b ON a.k = b.k ORDER BY a.farm
no | SELECT groupArray(3)(farm) FROM (SELECT farm FROM sale ORDER BY id)
no | SELECT topK(1)(farm) FROM sale WHERE farm = 'Dell'
SELECT count(), countIf(isNull(note)), count() - count(note) FROM sale
SELECT farm, status FROM sale WHERE (farm, status) IN (('Alder', 'ok'), ('Cole', 'void')) ORDER BY id
SELECT min(toHour(at)) AS first, max(toHour(at)) AS last FROM sale WHERE NOT (status IN ('void'))
SELECT DISTINCT toStartOfMonth(day) AS month FROM sale ORDER BY month DESC LIMIT 2
SELECT farm, kg, if(kg > 10, 'big', NULL) AS size FROM sale ORDER BY kg DESC, id
