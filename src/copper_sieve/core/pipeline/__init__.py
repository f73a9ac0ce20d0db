"""The one place that joins everything: plan -> evaluate -> pack -> write -> assay."""
