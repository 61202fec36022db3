"""No module of the product imports itself by way of others, within functions and for types included."""

import graphlib

import grimp
import pytest


@pytest.fixture(scope="module")
def graph() -> grimp.ImportGraph:
    return grimp.build_graph("huvren", cache_dir=None)


def test_no_module_imports_itself_by_way_of_others(graph: grimp.ImportGraph) -> None:
    sorter = graphlib.TopologicalSorter({module: graph.find_modules_directly_imported_by(module) for module in graph.modules})
    try:
        sorter.prepare()
    except graphlib.CycleError as cycle:
        pytest.fail(" ← ".join(cycle.args[1]))


def test_a_cycle_would_be_seen(graph: grimp.ImportGraph) -> None:
    graph.add_import(importer="huvren.core.errors", imported="huvren.core.formats")
    sorter = graphlib.TopologicalSorter({module: graph.find_modules_directly_imported_by(module) for module in graph.modules})
    with pytest.raises(graphlib.CycleError):
        sorter.prepare()
