"""The one part of the core that is compiled: the start engine. Everything else stands in
pyproject.toml.
"""

from Cython.Build import cythonize
from setuptools import Extension, setup

# Complex products and quotients without the checks for infinities: no admittance here is near one.
setup(
    ext_modules=cythonize(
        [
            Extension(
                "ironmargin.starting.engine",
                ["ironmargin/starting/engine.py"],
                extra_compile_args=["-O3", "-fcx-limited-range"],
            )
        ],
        build_dir="build",
    )
)
