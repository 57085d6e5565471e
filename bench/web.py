"""The application with one more endpoint, the floor: it runs `select 1` on a pooled connection and answers."""

from fastapi import Response

from sorta.main import make_web, set_up_logging
from sorta.settings import Settings

if __name__ == "__main__":
    import uvicorn

    settings = Settings()
    set_up_logging(settings.log_level)
    app = make_web(settings)

    async def get_floor() -> Response:
        async with app.state.house.db.connect() as conn:
            row = await (await conn.execute("select 1")).fetchone()
        return Response(f"{row[0]}", media_type="application/json")

    app.router.add_api_route("/bench/select-1", get_floor, methods=["GET"])
    app.router.routes.insert(0, app.router.routes.pop())
    uvicorn.run(app, host="127.0.0.1", port=settings.port, log_level="error", timeout_graceful_shutdown=1)
