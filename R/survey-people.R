# Who answered, as far as the data say: for the first page of a report.

# list(people, rows, aside, waves: rows by wave, groups: list of counts by column, dates: first and last, age: list(mean, sd, low, high), born:
# first and last year, sex: counts, answered: share of the items' cells, complete: people who answered all). What the data do not
# say is NULL. Of people in several rows the first counts.
described_people <- function(survey) {
  items <- analysed_items(survey)
  count <- source_count(survey, items)
  if (!gives_people(survey)) {
    return(counted_people(survey, items, count))
  }
  person <- if (is.null(survey$id)) NULL else source_column(survey, survey$id)
  first <- if (is.null(person)) rep(TRUE, count$used) else !duplicated(person) | is.na(person)
  names <- setdiff(source_names(survey), c(survey$id, survey$codebook$items$item[survey$codebook$items$role != "aside"]))
  columns <- source_columns(survey, names)
  wording <- survey$codebook$items$wording[match(names, survey$codebook$items$item)]
  find <- function(pattern, asked) names[grepl(pattern, tolower(names)) | grepl(asked, tolower(wording))]
  number <- function(candidates, low, high) {
    for (name in candidates) {
      value <- suppressWarnings(as.numeric(as.character(columns[[name]])))[first]
      if (sum(!is.na(value)) >= .5 * sum(first) && all(value >= low & value <= high, na.rm = TRUE)) return(value[!is.na(value)])
    }
  }
  age <- number(find("^(age|alter|age_?(in_)?years|alter_?(in_)?jahren?|\u00e2ge)$", "how old|wie alt|your age|ihr alter|quel \u00e2ge"), 5, 115)
  born <- number(find("^(born|birth_?year|year_?(of_?)?birth|yob|geburtsjahr)$", "year.*born|year of (your )?birth|geburtsjahr"), 1900, 2100)
  sex <- Filter(function(name) length(unique(columns[[name]][!is.na(columns[[name]])])) %in% 2:8,
    find("^(sex|gender|geschlecht|sexe|genre)$", "\\b(gender|sex|geschlecht|sexe)\\b"))[1]
  counts <- function(column) {
    text <- one_spelling(as.character(column)[first])
    sort(table(text[!is.na(text) & text != ""]), decreasing = TRUE)
  }
  list(
    people = sum(first), rows = count$used, aside = count$aside,
    waves = if (!is.null(survey$wave)) table(factor(source_column(survey, survey$wave), survey$waves)),
    groups = lapply(stats::setNames(survey$group, survey$group), function(column) counts(source_column(survey, column))),
    dates = date_span(columns, names), age = if (length(age) > 0) list(mean = mean(age), sd = stats::sd(age), low = min(age), high = max(age)),
    born = if (length(born) > 0) range(born), sex = if (!is.na(sex) && !sex %in% survey$group) counts(columns[[sex]]),
    answered = 1 - sum(count$missing, na.rm = TRUE) / max(1, length(items) * count$used),
    complete = if (length(items) > 0) complete_count(survey, items)
  )
}

# What counts alone say.
counted_people <- function(survey, items, count) {
  sizes <- function(column) {
    found <- group_values(survey, column)
    sort(tapply(found$n, factor(found$group), sum), decreasing = TRUE)
  }
  waves <- if (!is.null(survey$wave)) {
    found <- source_distinct(survey, survey$wave)
    as.table(stats::setNames(found$n[match(survey$waves, as.character(found[[1]]))], survey$waves))
  }
  list(people = if (is.null(survey$id)) count$used else source_people(survey)$people, rows = count$used, aside = count$aside, waves = waves,
    groups = lapply(stats::setNames(survey$group, survey$group), sizes),
    answered = 1 - sum(count$missing, na.rm = TRUE) / max(1, length(items) * count$used),
    complete = if (length(items) > 0) complete_count(survey, items))
}

# How many answered all of these items.
complete_count <- function(survey, items) {
  if (gives_rows(survey, items)) sum(stats::complete.cases(source_rows(survey, items))) else source_moments(survey, items)$n
}

# First and last day in the first column of dates; NULL where there is none.
date_span <- function(columns, names) {
  for (name in names) {
    column <- columns[[name]]
    if (is.character(column) && grepl("date|datum|start|recorded|submit|time", tolower(name))) {
      seen <- column[!is.na(column) & column != ""]
      iso <- length(seen) > 0 && all(grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}", seen))
      column <- if (iso) as.Date(substr(seen, 1, 10)) else NULL
    }
    if (inherits(column, c("Date", "POSIXct")) && any(!is.na(column))) return(format(range(as.Date(column), na.rm = TRUE)))
  }
  NULL
}
