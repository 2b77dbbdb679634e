# People with weights and people in clusters: checked once, asked for everywhere.

# Weights must be numbers above zero, clusters known for everybody and at least two: cases without are set aside, on record.
settle_design <- function(survey) {
  for (role in c("weight", "cluster")) {
    column <- survey[[role]]
    if (is.null(column)) next
    check_string(column, role)
    values <- source_column(survey, column)
    given <- if (role == "weight") suppressWarnings(as.numeric(as.character(values))) else trimws(as.character(values))
    bad <- if (role == "weight") !is.na(given) & (!is.finite(given) | given < 0) else rep(FALSE, length(given))
    text <- role == "weight" & is.na(given) & !is.na(values) & trimws(as.character(values)) != ""
    if (any(bad | text)) {
      stop_input(message_of("e_column_must_hold", column = column), faults = messages_of("e_row", bad = utils::head(which(bad | text), 5),
        values = utils::head(as.character(values)[bad | text], 5)))
    }
    without <- is.na(given) | (role == "weight" & given %in% 0) | given %in% ""
    if (all(without)) stop_input(message_of("e_column_no_values", column = column))
    if (any(without)) {
      survey <- leave_out_cases(survey, which(without)) |>
        log_step(role, message_of(paste0("log_without_", role), cases = sum(without), column = column))
    }
    if (role == "cluster" && length(unique(given[!without])) < 2) stop_input(message_of("e_column_one_cluster", column = column))
  }
  survey
}

survey_cluster <- function(survey, rows) if (!is.null(survey$cluster)) as.character(source_column(survey, survey$cluster))[rows]

# "Weighted by w (as good as 512 people of equal weight); errors allow for 32 clusters (school)."
design_note <- function(survey) {
  if (!has_answers(survey) || (is.null(survey$weight) && is.null(survey$cluster))) {
    return(NULL)
  }
  used <- rep(TRUE, source_count(survey)$used)
  weight <- survey_weight(survey, used)
  cluster <- survey_cluster(survey, used)
  clusters <- if (!is.null(cluster)) length(unique(cluster))
  good <- if (!is.null(weight)) round(length(used) / core_weight_effect(weight))
  words <- if (is.null(cluster)) {
    message_of("design_weight", weight = survey$weight, good = good)
  } else {
    few <- if (clusters < 20) message_of("too_few_clusters")
    if (is.null(weight)) message_of("design_clusters", clusters = clusters, cluster = survey$cluster, few = few) else
      message_of("design_both", weight = survey$weight, good = good, clusters = clusters, cluster = survey$cluster, few = few)
  }
  note("design", words, clusters = clusters)
}
