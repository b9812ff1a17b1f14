package main

// family is a business: what its tables and columns are called. Columns stand in the order of columnsOf.
type family struct {
	name     string
	tables   map[string]string   // by role
	columns  map[string][]string // by role
	statuses []string            // the first is the usual one
	segments []string
	kinds    []string // labels
	groups   []string
	places   []string
	items    []string
}

// columnsOf are the columns of each role, under the names that queries are made with.
var columnsOf = map[string][]string{
	"P": {"key", "name", "district", "opened", "size"},
	"C": {"key", "name", "segment", "place", "joined"},
	"K": {"key", "label", "group", "price"},
	"E": {"key", "party", "kind", "place", "status", "at", "booked", "amount", "fee", "qty", "flag"},
	"L": {"key", "event", "item", "pieces", "cost"},
}

var roles = []string{"P", "C", "K", "E", "L"}

var families = []family{
	{name: "shop", tables: map[string]string{"P": "stores", "C": "customers", "K": "categories", "E": "orders", "L": "order_lines"},
		columns: map[string][]string{
			"P": {"store_id", "store_name", "borough", "opened_on", "square_metres"},
			"C": {"customer_id", "customer_name", "segment", "store_id", "since"},
			"K": {"category_code", "category", "department", "list_price"},
			"E": {"order_id", "customer_id", "category_code", "store_id", "status", "ordered_at", "shipped_on", "gross", "discount",
				"units", "is_gift"},
			"L": {"line_id", "order_id", "article", "pieces", "cost"}},
		statuses: []string{"paid", "open", "cancelled", "returned"}, segments: []string{"private", "business", "club"},
		kinds:  []string{"Shoes", "Lamps", "Garden", "Kitchen", "Books", "Toys"},
		groups: []string{"Home", "Leisure"}, places: []string{"North", "South", "Harbour", "Hill"},
		items: []string{"box", "bag", "sleeve", "crate"}},
	{name: "clinic", tables: map[string]string{"P": "wards", "C": "patients", "K": "treatments", "E": "visits", "L": "prescriptions"},
		columns: map[string][]string{
			"P": {"ward_no", "ward", "wing", "in_use_since", "beds"},
			"C": {"patient_no", "full_name", "insurance", "home_ward", "registered"},
			"K": {"treatment", "description", "field", "tariff"},
			"E": {"visit_no", "patient_no", "treatment", "ward_no", "state", "begun", "planned_for", "charge", "own_share", "days",
				"emergency"},
			"L": {"script_no", "visit_no", "remedy", "doses", "price"}},
		statuses: []string{"D", "P", "X"}, segments: []string{"PUB", "PRIV", "NONE"},
		kinds:  []string{"Check-up", "X-ray", "Surgery", "Dialysis", "Vaccination"},
		groups: []string{"Internal", "External", "Prevention"}, places: []string{"East", "West", "Main"},
		items: []string{"drops", "tablets", "salve"}},
	{name: "school", tables: map[string]string{"P": "campuses", "C": "pupils", "K": "courses", "E": "enrolments", "L": "marks"},
		columns: map[string][]string{
			"P": {"campus_id", "campus", "quarter_name", "founded", "rooms"},
			"C": {"pupil_id", "pupil", "grade", "campus_id", "entered_on"},
			"K": {"course_code", "title", "faculty", "hours"},
			"E": {"enrolment_id", "pupil_id", "course_code", "campus_id", "result", "starts_at", "signed_on", "tuition", "grant_amount",
				"sessions", "evening"},
			"L": {"mark_id", "enrolment_id", "topic", "points", "weight"}},
		statuses: []string{"passed", "failed", "running", "left"}, segments: []string{"junior", "middle", "senior"},
		kinds:  []string{"Algebra", "Drawing", "Latin", "Chemistry", "Choir", "Judo", "History"},
		groups: []string{"Science", "Arts", "Sports"}, places: []string{"Old Town", "Riverside", "Meadow", "Station", "Park"},
		items: []string{"essay", "test", "talk", "project"}},
	{name: "hotel", tables: map[string]string{"P": "houses", "C": "guests", "K": "room_types", "E": "stays", "L": "extras"},
		columns: map[string][]string{
			"P": {"house", "house_name", "region", "open_since", "floors"},
			"C": {"guest_id", "guest", "tier", "favourite_house", "first_seen"},
			"K": {"room_type", "type_name", "comfort", "rate"},
			"E": {"stay_id", "guest_id", "room_type", "house", "booking_state", "arrived", "booked_on", "revenue", "tax", "nights",
				"is_internal"},
			"L": {"extra_id", "stay_id", "service", "times", "amount"}},
		statuses: []string{"OK", "NS", "CXL"}, segments: []string{"gold", "silver", "none"},
		kinds:  []string{"Single", "Double", "Suite", "Family"},
		groups: []string{"standard", "superior"}, places: []string{"Coast", "Mountain", "Lake"},
		items: []string{"breakfast", "parking", "spa", "minibar"}},
	{name: "garage", tables: map[string]string{"P": "branches", "C": "vehicles", "K": "services", "E": "jobs", "L": "job_parts"},
		columns: map[string][]string{
			"P": {"branch_id", "branch", "county", "opened", "lifts"},
			"C": {"vehicle_id", "plate", "fuel", "branch_id", "first_registered"},
			"K": {"service_id", "service", "area", "hourly_rate"},
			"E": {"job_id", "vehicle_id", "service_id", "branch_id", "status", "finished_at", "ordered_on", "invoice", "parts_value",
				"hours", "warranty"},
			"L": {"part_line_id", "job_id", "part", "quantity", "purchase_price"}},
		statuses: []string{"done", "waiting", "refused"}, segments: []string{"diesel", "petrol", "electric", "gas"},
		kinds:  []string{"Brakes", "Oil", "Tyres", "Bodywork", "Inspection"},
		groups: []string{"mechanics", "surface"}, places: []string{"Upper", "Lower", "Middle"},
		items: []string{"disc", "filter", "belt", "bolt", "lamp"}},
	{name: "gym", tables: map[string]string{"P": "studios", "C": "members", "K": "classes", "E": "bookings", "L": "rentals"},
		columns: map[string][]string{
			"P": {"studio_id", "studio", "city", "opening_day", "capacity"},
			"C": {"member_id", "member", "plan", "studio_id", "joined_on"},
			"K": {"class_id", "class_name", "style", "minutes"},
			"E": {"booking_id", "member_id", "class_id", "studio_id", "status", "class_time", "booked_on", "paid", "refund", "seats",
				"trial"},
			"L": {"rental_id", "booking_id", "gear", "items", "deposit"}},
		statuses: []string{"attended", "no-show", "cancelled"}, segments: []string{"basic", "plus", "day pass"},
		kinds:  []string{"Yoga", "Boxing", "Spin", "Dance", "Climbing", "Rowing"},
		groups: []string{"calm", "strong", "fast"}, places: []string{"Linden", "Oak", "Maple", "Birch"},
		items: []string{"mat", "gloves", "towel"}},
	{name: "transit", tables: map[string]string{"P": "depots", "C": "drivers", "K": "lines", "E": "trips", "L": "incidents"},
		columns: map[string][]string{
			"P": {"depot", "depot_name", "zone", "built", "buses"},
			"C": {"driver_no", "driver", "licence", "depot", "hired"},
			"K": {"line", "line_name", "network", "length_km"},
			"E": {"trip_no", "driver_no", "line", "depot", "outcome", "departed", "scheduled_on", "fares", "fines", "riders",
				"extra_run"},
			"L": {"incident_no", "trip_no", "sort", "minutes_lost", "damage"}},
		statuses: []string{"R", "C", "D", "S"}, segments: []string{"B", "C1", "D"},
		kinds:  []string{"Ring", "Airport", "Harbour", "Night", "Market"},
		groups: []string{"city", "region"}, places: []string{"Ost", "Nord", "Hafen", "Zoo"},
		items: []string{"door", "traffic", "weather", "person"}},
	{name: "museum", tables: map[string]string{"P": "sites", "C": "groups_visiting", "K": "exhibitions", "E": "tours", "L": "purchases"},
		columns: map[string][]string{
			"P": {"site_code", "site", "province", "acquired", "halls"},
			"C": {"group_id", "group_name", "origin", "site_code", "known_since"},
			"K": {"exhibition_id", "exhibition", "epoch", "entry_price"},
			"E": {"tour_id", "group_id", "exhibition_id", "site_code", "status", "held_at", "requested_on", "income", "rebate", "heads",
				"free_tour"},
			"L": {"purchase_id", "tour_id", "product", "count_sold", "turnover"}},
		statuses: []string{"held", "cancelled", "moved"}, segments: []string{"school", "abroad", "region", "club"},
		kinds:  []string{"Bronze", "Maps", "Portraits", "Glass"},
		groups: []string{"antiquity", "modern"}, places: []string{"Castle", "Mill", "Abbey"},
		items: []string{"catalogue", "postcard", "print"}},
}
