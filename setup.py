"""The parts of the core that are compiled: the start engine with its searches, the settled network
of many sets, and the cells of a battery.
Everything else stands in pyproject.toml.
"""

from Cython.Build import cythonize
from setuptools import Extension, setup

# Complex products and quotients without the checks for infinities: no admittance here is near one.
setup(
    ext_modules=cythonize(
        [
            Extension(
                f"ironmargin.{module}",
                [f"ironmargin/{module.replace('.', '/')}.py"],
                extra_compile_args=["-O3", "-fcx-limited-range", "-fno-math-errno", "-g0"],
            )
            for module in (
                "starting.circuit",
                "starting.motors",
                "starting.concurrent",
                "starting.supply",
                "starting.engine",
                "starting.lines",
                "starting.edge",
                "electrics.columns",
                "enduring.cells",
            )
        ],
        build_dir="build",
    )
)
